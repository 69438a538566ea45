import type { ReactNode } from "react";
import type { Problem, Row, RowFigures } from "../../api/client";
import { RowsRule } from "../../setting/RowRules";
import { Asked } from "../../ui/Asked";
import { FigureField, LengthField, TextField } from "../../ui/fields";
import { count, formatLength, writeSentence } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { lineById } from "../../window/things";
import { AlongQuestions } from "./AlongQuestions";
import { ClearQuestion } from "./ClearQuestion";
import { FieldQuestions } from "./FieldQuestions";
import { HangQuestion } from "./HangQuestion";
import { HeldQuestion } from "./HeldQuestion";
import { ItemFields } from "./ItemFields";
import { itemKindOf } from "./itemKinds";
import { PatternQuestion } from "./PatternQuestion";
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
  const { item, seat } = row;
  const length = (mm: number) => formatLength(mm, units);
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
        {count(figures?.count ?? 0, "item")} {row.filling ? "within" : "along"} {lineById(shown, row.line)?.name}
      </p>

      <RowsRule id={row.id} rule={row.rule} />
      {checks}
      {row.filling ? (
        <FieldQuestions {...{ row, figures, change }} />
      ) : (
        <AlongQuestions {...{ row, figures, change }} />
      )}
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
      <HangQuestion {...{ row, figures, change }} />
      <ClearQuestion {...{ row, change }} />
      {!row.filling && <HeldQuestion {...{ row, figures }} />}
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
