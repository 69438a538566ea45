/** What came out of a row along its line, how far apart its items stand, and what happens at ends and corners. */
import type { RowFigures } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick, Tick } from "../../ui/choices";
import { LengthField, Setting } from "../../ui/fields";
import { formatLength } from "../../ui/figures";
import { useShown, useUnits } from "../../window/job";
import { lineById, namedMarks } from "../../window/things";
import { AT_ENDS } from "../questions";
import { CameOut } from "./CameOut";
import type { RowQuestion } from "./question";
import { figureOf, ruleOf } from "./rules";
import { SpacingQuestion } from "./SpacingQuestion";

export function AlongQuestions({ row, figures, change }: RowQuestion) {
  const shown = useShown();
  const units = useUnits();
  const { spacing } = row;
  const line = lineById(shown, row.line);
  const space = (part: object) => change({ spacing: part });
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
  const { inset_start = 0, inset_end = 0, corners = "carry" } = spacing;
  const hindered = (line?.openings?.length ?? 0) > 0 || (row.clear_of?.length ?? 0) > 0;
  // Which bays can be of another size: of a rule that fills its stretch, and where there is such an end of it.
  const ownBays = END_BAYS.filter(
    ([field]) =>
      rule.fills &&
      ({ end_bay: !ring, corner_bay: corners === "restart", opening_bay: hindered }[field] || spacing[field]),
  );
  const atEnds = [
    spacing.corners === "restart" ? "restart at corners" : "carried round corners",
    !ring && (inset_start !== 0 || inset_end !== 0) && `inset ${length(inset_start)} and ${length(inset_end)}`,
    ...ownBays.map(([field, words]) => spacing[field] && `${length(spacing[field])} next to ${words}`),
    !ring && left > 0 && (left === 2 ? "no first, no last" : spacing.first === false ? "no first" : "no last"),
  ]
    .filter(Boolean)
    .join("; ");
  return (
    <>
      <CameOut
        items={figures?.count ?? 0}
        at={
          <>
            at{" "}
            <b className="figure">
              {centres.length > 3 ? `${centres[0]} … ${centres.at(-1)}` : centres.join(", ") || "no"}
            </b>{" "}
            centres
          </>
        }
      >
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
      </CameOut>
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

        {ownBays.map(([field, words]) => (
          <LengthField
            key={field}
            label={`Bay next to ${words}`}
            mm={spacing[field] ?? 0}
            bound={{ thing: row.id, field: `spacing.${field}` }}
            take={(size) => space({ [field]: size })}
          />
        ))}
        {ownBays.length > 0 && <p className="mt-1 mb-1.5 text-pencil text-sm">A bay of 0 is like the others.</p>}

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
    </>
  );
}

/** The bays that can be of a size of their own, and what they lie next to. */
const END_BAYS = [
  ["end_bay", "the ends"],
  ["corner_bay", "corners"],
  ["opening_bay", "openings"],
] as const;

/** All centres that a row's items stand at, mm. */
export function centresOf(figures: RowFigures | undefined): number[] {
  return (figures?.stretches ?? []).flatMap((one) => {
    if (!one.bays) return [];
    const last = one.closing == null ? [] : [one.closing];
    const equal = one.bays - one.end_bays.length > last.length ? [one.centres] : [];
    return [...equal, ...last, ...one.end_bays];
  });
}
