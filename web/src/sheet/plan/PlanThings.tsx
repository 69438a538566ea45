/** What lies on the plan: walls, runs with their pieces, lines, and items. */
import { memo } from "react";
import type { JobShown, Line, LineFigures } from "../../api/client";
import { footprintsOf, outlineOf } from "../../api/merging";
import { useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { useWindow } from "../../window/store";
import { lineOf, partOf, pathOf, runById } from "../../window/things";
import { itemsPath } from "../items";
import { useRowPlaces } from "../places";
import { toneOf } from "../tones";
import { type Frame, toSheet } from "./frame";
import { areMany } from "./Ground";

interface Sheet {
  frame: Frame;
  width: number;
  height: number;
}

export function PlanThings({ frame, width, height }: Sheet) {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  const piece = useWindow((state) => state.piece);
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  return (
    // Drawn in job millimetres; strokes keep their width on the sheet.
    <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`}>
      <Things shown={shown} selected={selected} piece={piece} />
    </g>
  );
}

const loops = (outlines: readonly (readonly (readonly number[])[])[]) =>
  outlines.map((outline) => path(outline, true)).join("");

const path = (points: readonly (readonly number[])[], closed: boolean) =>
  points.length ? `M${points.map((point) => `${point[0]} ${point[1]}`).join("L")}${closed ? "Z" : ""}` : "";

const Things = memo(function Things({
  shown,
  selected,
  piece,
}: {
  shown: JobShown;
  selected: string[];
  piece: number | null;
}) {
  const rows = useRowPlaces(shown.rows);
  const chosenLines = new Set(selected.map((id) => lineOf(shown, id)?.id));
  const lines = shown.job.lines ?? [];
  // Very many lines lie on the ground of the sheet; only the selected ones are drawn here.
  const many = areMany(lines);
  // Higher runs lie over lower ones; what is selected lies over all.
  const order = [...shown.runs].sort((a, b) => Number(isIn(selected, a.id)) - Number(isIn(selected, b.id)));
  return (
    <>
      {shown.lines.map(({ id, strip }) => strip && <StripOnPlan key={id} strip={strip} />)}
      {shown.lines.map((line) =>
        line.wall_footprints.map((footprint, index) => (
          <path
            key={`${line.id}${index}`}
            d={loops(footprint.map(outlineOf))}
            fillRule="evenodd"
            fill="var(--color-rule)"
            stroke="var(--color-rule)"
            strokeWidth={1}
            vectorEffect="non-scaling-stroke"
          />
        )),
      )}
      {many && (
        <path
          d={lines
            .filter((line) => chosenLines.has(line.id))
            .map((line) => path(pathOf(shown, line).points, false))
            .join("")}
          fill="none"
          stroke="var(--color-chalk)"
          strokeWidth={2.4}
          vectorEffect="non-scaling-stroke"
        />
      )}
      {!many &&
        lines.map((line) => {
          const d = path(pathOf(shown, line).points, false);
          const on = chosenLines.has(line.id);
          return (
            <g key={line.id}>
              <path
                d={d}
                fill="none"
                stroke={on ? "var(--color-chalk)" : "var(--color-chalk-quiet)"}
                strokeWidth={on ? 2.4 : 1.5}
                vectorEffect="non-scaling-stroke"
              />
              <path
                d={d}
                fill="none"
                stroke="transparent"
                strokeWidth={11}
                vectorEffect="non-scaling-stroke"
                pointerEvents="stroke"
                data-pick={line.id}
                className="cursor-pointer"
              />
            </g>
          );
        })}
      {lines
        .filter((line) => line.openings?.length && !many)
        .map((line) => (
          <Gaps key={line.id} shown={shown} line={line} on={chosenLines.has(line.id)} />
        ))}
      {order.map((run) => {
        const on = isIn(selected, run.id);
        const tone = toneOf(
          shown.job.sections?.find((section) => section.id === runById(shown, run.id)?.section)?.material,
        );
        const footprints = footprintsOf(run);
        return (
          <g key={run.id} opacity={selected.length && !on ? 0.75 : 1}>
            {run.pieces.map((one, index) => (
              <path
                key={one.tag}
                d={loops(footprints[index] ?? [])}
                fillRule="evenodd"
                fill={on ? (piece === index ? "var(--color-chalk-soft)" : "var(--color-chalk-pale)") : tone.face}
                stroke={on ? "var(--color-chalk-deep)" : tone.edge}
                strokeWidth={on ? 1.3 : 0.8}
                vectorEffect="non-scaling-stroke"
                data-pick={run.id}
                data-piece={index}
                className="cursor-pointer"
              />
            ))}
          </g>
        );
      })}
      {shown.rows.map((row) => {
        const places = rows.get(row.id);
        if (!places) return null;
        const on = isIn(selected, row.id);
        return row.items.map((item, letter) => {
          const tone = toneOf(item.material);
          return (
            <path
              key={`${row.id} ${item.letter}`}
              d={itemsPath(row, places, letter)}
              fill={on ? "var(--color-chalk-pale)" : tone.face}
              stroke={on ? "var(--color-chalk-deep)" : tone.edge}
              strokeWidth={on ? 1.6 : 1}
              vectorEffect="non-scaling-stroke"
              data-pick={row.id}
              className="cursor-pointer"
            />
          );
        });
      })}
    </>
  );
});

/** A path or a bed along a line, under all that stands on it. */
function StripOnPlan({ strip }: { strip: NonNullable<LineFigures["strip"]> }) {
  return (
    <g pointerEvents="none">
      <path
        d={strip.grounds.map(loops).join("")}
        fillRule="evenodd"
        fill="var(--color-paving)"
        stroke="var(--color-chalk-quiet)"
        strokeWidth={0.8}
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={strip.joints.map((joint) => path(joint, false)).join("")}
        fill="none"
        stroke="var(--color-chalk-quiet)"
        strokeWidth={0.6}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

/** The openings of a line: it is not there, and its ends are marked. */
function Gaps({ shown, line, on }: { shown: JobShown; line: Line; on: boolean }) {
  const whole = pathOf(shown, line);
  return (
    <>
      {line.openings?.map((opening) => {
        const part = partOf(whole, opening.at, opening.at + opening.width);
        const d = path(part, false);
        return (
          <g key={opening.name} pointerEvents="none">
            <path d={d} fill="none" stroke="var(--color-paper)" strokeWidth={4} vectorEffect="non-scaling-stroke" />
            <path
              d={d}
              fill="none"
              stroke={on ? "var(--color-chalk)" : "var(--color-chalk-quiet)"}
              strokeDasharray="2 4"
              strokeWidth={1.2}
              vectorEffect="non-scaling-stroke"
            />
          </g>
        );
      })}
    </>
  );
}
