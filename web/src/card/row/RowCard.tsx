import type { ReactNode } from "react";
import type { Problem, Row, RowFigures } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick, Tick } from "../../ui/choices";
import { FigureField, LengthField, Setting, TextField } from "../../ui/fields";
import { count, formatLength, writeSentence } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { lineById, namedMarks } from "../../window/things";
import { AT_ENDS } from "../questions";
import { HeldQuestion } from "./HeldQuestion";
import { ItemFields } from "./ItemFields";
import { itemKindOf } from "./itemKinds";
import { PatternQuestion } from "./PatternQuestion";
import { figureOf, ruleOf } from "./rules";
import { SpacingQuestion } from "./SpacingQuestion";
import { TurnQuestion } from "./TurnQuestion";

/** The point of an item that sits on the line where nothing else is said, where it is not the middle of its foot. */
const USUAL_SEAT: Partial<Record<Row["item"]["kind"], string>> = {
  lamp: "the top of its hanger",
  bracket: "the top of its back",
};

export function RowCard({ row, checks }: { row: Row; checks: ReactNode }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const figures = shown.rows.find((one) => one.id === row.id);
  const change = (changes: object): Promise<Problem | null> => edit([{ kind: "set_row", row: row.id, changes }]);
  const { spacing, item } = row;
  const line = lineById(shown, row.line);
  const space = (part: object) => change({ spacing: part });
  const seat = row.seat;
  const ring = figures?.ring ?? false;
  const rule = ruleOf(spacing.rule.kind);
  // First and last are counted by the rule whether or not they are left out.
  const left = ring ? 0 : Number(spacing.first === false) + Number(spacing.last === false);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const bays = centresOf(figures);
  const centres = [...new Set(bays.sort((a, b) => a - b).map((mm) => formatLength(mm, fine)))];
  const gaps = (figures?.stretches ?? []).flatMap((one) => one.gap ?? []);
  const gap = gaps.length > 0 ? Math.max(...gaps) : null;
  const length = (mm: number) => formatLength(mm, units);
  const worth = rule.counts ? `, ${figureOf(spacing.rule)}` : ` ${length(figureOf(spacing.rule))}`;
  const { inset_start = 0, inset_end = 0 } = spacing;
  const atEnds = [
    spacing.corners === "restart" ? "restart at corners" : "carried round corners",
    !ring && (inset_start !== 0 || inset_end !== 0) && `inset ${length(inset_start)} and ${length(inset_end)}`,
    !ring && left > 0 && (left === 2 ? "no first, no last" : spacing.first === false ? "no first" : "no last"),
  ]
    .filter(Boolean)
    .join("; ");
  const itemWords = figures?.items[0] ? writeSentence(figures.items[0].name, units) : itemKindOf(item.kind).words;
  const seatWords = [
    seat.along === 0 && seat.across === 0 && seat.up === 0
      ? (USUAL_SEAT[item.kind] ?? "the middle of its foot")
      : `${length(seat.along)} along, ${length(seat.across)} across, ${length(seat.up)} up`,
    (row.stand_off ?? 0) !== 0 && `${length(row.stand_off ?? 0)} to the right`,
    (row.lift ?? 0) !== 0 && `${length(row.lift ?? 0)} up`,
  ]
    .filter(Boolean)
    .join("; ");
  return (
    <>
      <TextField label="Name of the row" value={row.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        {count(figures?.count ?? 0, "item")} along {lineById(shown, row.line)?.name}
      </p>

      {checks}
      <div className="mt-2 rounded-[3px] bg-lath px-2.5 py-1.5 text-sm" role="status" aria-label="What came out">
        <b className="figure">{count(figures?.count ?? 0, "item")}</b> at{" "}
        <b className="figure">
          {centres.length > 3 ? `${centres[0]} … ${centres.at(-1)}` : centres.join(", ") || "no"}
        </b>{" "}
        centres
        <br />
        <span className="text-pencil">
          left over <span className="figure">{formatLength(figures?.left_over ?? 0, units)}</span>
          {ring && spacing.rule.kind !== "fixed-centres" && " · as many items as bays"}
          {gap !== null && (
            <>
              {" "}
              · clear gap <span className="figure">{formatLength(gap, fine)}</span>
            </>
          )}
          {figures?.stretches[0]?.closing != null && (
            <>
              {" "}
              · the last bay{ring && ", back to the first item,"} is{" "}
              <span className="figure">{formatLength(figures.stretches[0].closing, fine)}</span>
            </>
          )}
        </span>
      </div>

      <div className="mt-2" />
      <SpacingQuestion {...{ row, figures, change }} answer={`${rule.words.toLowerCase()}${worth}`} />
      <Asked question={AT_ENDS} answer={atEnds}>
        <Choice
          label="At corners"
          value={spacing.corners ?? "carry"}
          ways={[
            ["carry", "Continue round corners"],
            ["restart", "Restart at each"],
          ]}
          choose={(corners) => void space({ corners })}
        />
        {ring ? (
          <p className="mt-1.5 text-pencil text-sm">
            The line is closed: there is no first and no last, and nothing is inset.
          </p>
        ) : (
          <div className="mt-1.5">
            <LengthField
              label="Inset at the start"
              mm={spacing.inset_start ?? 0}
              bound={{ thing: row.id, field: "spacing.inset_start" }}
              take={(inset_start) => space({ inset_start })}
            />
            <LengthField
              label="Inset at the end"
              mm={spacing.inset_end ?? 0}
              bound={{ thing: row.id, field: "spacing.inset_end" }}
              take={(inset_end) => space({ inset_end })}
            />
            <div className="flex gap-5">
              <Tick label="First item" checked={spacing.first ?? true} set={(first) => space({ first })} />
              <Tick label="Last item" checked={spacing.last ?? true} set={(last) => space({ last })} />
            </div>
          </div>
        )}

        {(line?.openings?.length ?? 0) > 0 && (
          <Choice
            label="At openings"
            value={row.openings ?? "clear"}
            ways={[
              ["clear", "Clear of openings"],
              ["pass", "Over them"],
            ]}
            choose={(openings) => void change({ openings })}
          />
        )}
        {line &&
          namedMarks(line).length > 0 &&
          (["from_mark", "to_mark"] as const).map((field) => (
            <Setting key={field} label={field === "from_mark" ? "From the place" : "To the place"}>
              <Pick
                label={field === "from_mark" ? "From the place" : "To the place"}
                value={row[field] ?? ""}
                ways={[
                  ["", field === "from_mark" ? "the line's start" : "the line's end"],
                  ...namedMarks(line).map((mark): [string, string] => [mark.id ?? "", mark.name]),
                ]}
                choose={(name) => void change({ [field]: name || null })}
              />
            </Setting>
          ))}
      </Asked>
      <Asked question="What is set out?" answer={itemWords}>
        <ItemFields
          item={item}
          thing={row.id}
          change={(part) => change({ item: part })}
          material={{ value: row.material ?? "softwood", choose: (material) => void change({ material }) }}
        />
      </Asked>
      <PatternQuestion {...{ row, figures, change }} />
      <Asked question="Which point of it sits on the line?" answer={seatWords}>
        <div className="flex gap-3">
          <SeatPicture figures={figures} />
          <div className="min-w-0 flex-1">
            <LengthField label="Along" width="w-16" mm={seat.along} take={(along) => change({ seat: { along } })} />
            <LengthField label="Across" width="w-16" mm={seat.across} take={(across) => change({ seat: { across } })} />
            <LengthField label="Up" width="w-16" mm={seat.up} take={(up) => change({ seat: { up } })} />
          </div>
        </div>
        <p className="mt-1 text-pencil text-sm">
          Measured from {USUAL_SEAT[item.kind] ?? "the middle of its foot"}; across to the right.
        </p>
        <LengthField
          label="Stand-off to the right"
          mm={row.stand_off ?? 0}
          bound={{ thing: row.id, field: "stand_off" }}
          take={(stand_off) => change({ stand_off })}
        />
        <LengthField
          label="Lift"
          mm={row.lift ?? 0}
          bound={{ thing: row.id, field: "lift" }}
          take={(lift) => change({ lift })}
        />
      </Asked>
      <HeldQuestion {...{ row, figures }} />
      <TurnQuestion {...{ row, change }}>
        <div className="mt-2">
          <FigureField
            label="Letters for tags"
            width="w-16"
            value={row.tag}
            unit=""
            take={(tag) => change({ tag: tag.trim().toUpperCase() })}
          />
        </div>
      </TurnQuestion>
    </>
  );
}

/** All centres that a row's items stand at, mm. */
export function centresOf(figures: RowFigures | undefined): number[] {
  return (figures?.stretches ?? []).flatMap((one) => {
    if (!one.bays) return [];
    if (one.closing == null) return [one.centres];
    return one.bays > 1 ? [one.centres, one.closing] : [one.closing];
  });
}

/** The item from above, with the line through its seat. */
function SeatPicture({ figures }: { figures: RowFigures | undefined }) {
  const size = 92;
  const item = figures?.items[0];
  if (!item) return null;
  const [along = 0, across = 0] = item.seat as number[];
  const points = item.symbol.flat() as [number, number][];
  const reach = 2 * Math.max(...points.flat().map(Math.abs), Math.abs(along), Math.abs(across), 1);
  const scale = (size - 34) / reach;
  const middle = size / 2;
  const at = ([x, y]: readonly number[]) => [middle + (x ?? 0) * scale, middle - (y ?? 0) * scale] as const;
  // A seat is measured across to the right.
  const [x, y] = at([along, -across]);
  return (
    <svg
      width={size}
      height={size}
      className="shrink-0 border border-rule bg-paper"
      role="img"
      aria-label="The item on its line, from above"
    >
      {item.symbol.map((outline, number) => (
        <path
          key={number}
          d={`M${outline.map((point) => at(point).join(" ")).join("L")}Z`}
          fill="var(--color-timber)"
          stroke="var(--color-ink)"
          strokeWidth={1.2}
        />
      ))}
      <path
        d={`M0 ${y}H${size}M${size - 7} ${y - 4}l6 4l-6 4`}
        stroke="var(--color-chalk)"
        strokeWidth={1.4}
        fill="none"
      />
      <path d={`M${x} ${y}l5 8.5h-10z`} fill="var(--color-wax)" />
    </svg>
  );
}
