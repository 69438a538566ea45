/** The section as it sits on its line, seen along travel: nine points to choose from, the datum in beeswax. */
import type { Edit, RunFigures, Section } from "../../api/client";
import { groupIn } from "../../window/groups";
import { useChanges, useShown } from "../../window/job";
import { useWindow } from "../../window/store";
import { sectionById } from "../../window/things";

const SIZE = 90;

export function DatumPicture({ section, figures }: { section: Section; figures: RunFigures }) {
  const shown = useShown();
  const { edit } = useChanges();
  const selected = useWindow((state) => state.selected);
  const drawn = shown.sections.find((one) => one.id === section.id);
  if (!drawn) return null;
  const size = shown.job.runs?.find((run) => run.id === figures.id)?.size;
  const row = drawn.range.find((one) => one.name === size);
  const [[a, b], [c, d]] = figures.matrix as [[number, number], [number, number]];
  const [e, f] = figures.shift as [number, number];
  const place = (point: readonly number[]): [number, number] => [
    a * (point[0] ?? 0) + b * (point[1] ?? 0) + e,
    c * (point[0] ?? 0) + d * (point[1] ?? 0) + f,
  ];
  const corners = [
    [0, 0],
    [section.width, 0],
    [0, section.height],
    [section.width, section.height],
  ].map(place);
  const xs = [...corners.map((point) => point[0]), 0];
  const ys = [...corners.map((point) => point[1]), 0];
  const far = Math.max(section.width, section.height) * 2.5;
  // Lifted or stood far off, the section is shown by itself and the line beside it is left out.
  const near = Math.max(...xs.map(Math.abs), ...ys.map(Math.abs)) < far;
  const [left, right, low, high] = near
    ? [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
    : [
        Math.min(...xs.slice(0, 4)),
        Math.max(...xs.slice(0, 4)),
        Math.min(...ys.slice(0, 4)),
        Math.max(...ys.slice(0, 4)),
      ];
  const scale = (SIZE - 30) / Math.max(right - left, high - low);
  const at = (point: readonly number[]): [number, number] => [
    SIZE / 2 + ((point[0] ?? 0) - (left + right) / 2) * scale,
    SIZE / 2 - ((point[1] ?? 0) - (low + high) / 2) * scale,
  ];
  // In a row of the range the nine points are those of its own box.
  const base = sectionById(shown, section.id);
  const times = [section.width / (base?.width ?? 1), section.height / (base?.height ?? 1)];
  const datum = Object.fromEntries(
    Object.entries(drawn.datums).map(([name, point]) => [name, point.map((mm, axis) => mm * (times[axis] ?? 1))]),
  );
  const runs = selected.filter((id) => groupIn(shown.job, id) === "runs");
  const current = shown.job.runs?.find((run) => run.id === figures.id)?.placing?.datum ?? section.datum;
  const mark = at(
    place(
      current?.kind === "point"
        ? [current.x, current.y]
        : ((datum[current?.name ?? "back-foot"] as number[] | undefined) ?? [0, 0]),
    ),
  );
  return (
    <svg
      width={SIZE}
      height={SIZE}
      className="shrink-0 border border-rule bg-paper"
      role="img"
      aria-label="The section on its line, seen along travel"
    >
      {near && <path d={`M0 ${at([0, 0])[1]}H${SIZE}`} stroke="var(--color-chalk)" strokeWidth={1.4} />}
      <g
        transform={`translate(${SIZE / 2 - ((left + right) / 2) * scale} ${SIZE / 2 + ((low + high) / 2) * scale}) scale(${scale} ${-scale}) matrix(${a} ${c} ${b} ${d} ${e} ${f})`}
      >
        <path
          d={row?.path ?? drawn.path}
          fill="var(--color-timber)"
          stroke="var(--color-ink)"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
      {Object.entries(datum).map(([name, point]) => {
        const [x, y] = at(place(point as number[]));
        return (
          <g
            key={name}
            className="cursor-pointer"
            onClick={() =>
              void edit([{ kind: "set_placing", runs, changes: { datum: { kind: "named", name } } } as Edit])
            }
          >
            <circle cx={x} cy={y} r={7} fill="transparent" />
            <path d={`M${x - 2.5} ${y}h5M${x} ${y - 2.5}v5`} stroke="var(--color-pencil)" />
            <title>{name.replace("-", ", ")}</title>
          </g>
        );
      })}
      <path d={`M${mark[0]} ${mark[1]}l5 8.5h-10z`} fill="var(--color-wax)" pointerEvents="none" />
    </svg>
  );
}
