import { problemOf } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Tick } from "../../ui/choices";
import { FigureField, LengthField } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { useUnits } from "../../window/job";
import type { RowQuestion } from "./question";

const force = (value: number) => `${value.toFixed(value < 100 ? 1 : 0)} N`;

export function HangQuestion({ row, figures, change }: RowQuestion) {
  const units = useUnits();
  const length = (mm: number) => formatLength(mm, units);
  const hangers = figures?.hangers;
  if (!hangers || row.filling) return null;
  const [shortest, longest, all] = hangers as [number, number, number];
  const answer =
    row.hang_to == null
      ? `each by ${shortest === longest ? length(shortest) : `${length(shortest)} to ${length(longest)}`}`
      : `down to ${length(row.hang_to)}, by ${length(shortest)} to ${length(longest)}`;
  return (
    <Asked question="How do they hang?" answer={answer}>
      <Tick
        label="All down to one level, each by its own hanger"
        checked={row.hang_to != null}
        set={(on) => change({ hang_to: on ? Math.round((figures?.origin[2] ?? 0) - longest - 500) : null })}
      />
      {row.hang_to != null && (
        <LengthField label="Their feet at the level" mm={row.hang_to} take={(hang_to) => change({ hang_to })} />
      )}
      <p className="mb-1 text-pencil text-sm">
        {count(figures?.count ?? 0, "hanger")}, <span className="figure">{length(all)}</span> together; each is listed
        with its item.
      </p>
      <Tick
        label="Keep clear below them"
        checked={row.least_level != null}
        set={(on) => change({ least_level: on ? 2500 : null })}
      />
      {row.least_level != null && (
        <LengthField
          label="Nothing below the level"
          mm={row.least_level}
          take={(least_level) => change({ least_level })}
        />
      )}
      <FigureField
        label="Each weighs"
        value={row.weight_each == null ? "" : String(row.weight_each)}
        unit="N"
        placeholder="not known"
        take={async (text) => {
          if (text.trim() === "") return change({ weight_each: null });
          const weight = Number(text.replace(",", "."));
          return weight > 0
            ? change({ weight_each: weight })
            : problemOf(new Error(`“${text}” is not a weight: type newtons, such as 8.5.`));
        }}
      />
      <ul aria-label="Cords with their items" className="text-sm">
        {(figures?.cords ?? []).map((cord) => (
          <li key={cord.leg} className="border-rule border-t py-1">
            <b>Span {cord.leg + 1}</b>, {count(cord.items, "item")}: pulls{" "}
            <span className="figure">{force(cord.level)}</span> at its lowest,{" "}
            <span className="figure">{force(cord.begin)}</span> and <span className="figure">{force(cord.end)}</span> at
            its ends; sags <span className="figure">{length(cord.sag)}</span>
            {cord.strays > 1 && <>, within {length(cord.strays)} of what is drawn</>}
          </li>
        ))}
      </ul>
      {row.weight_each != null && !figures?.cords.length && (
        <p className="text-pencil text-sm">
          Pulls are known where the line is a cord and its own weight is given on the line’s card.
        </p>
      )}
    </Asked>
  );
}
