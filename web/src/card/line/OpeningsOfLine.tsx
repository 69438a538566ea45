/** The openings and named marks of a line. */
import type { Edit, Line, Mark, Opening } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Words } from "../../ui/choices";
import { LengthField, TextField } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { lineFigures, namedMarks } from "../../window/things";

/** A name for the next one of a kind: the last one's, counted on. */
export function nextName(names: string[], first: string): string {
  const last = names.at(-1) ?? "";
  const found = /^(.*?)(\d+)$/.exec(last);
  let [stem, number] = found ? [found[1] ?? "", Number(found[2]) + 1] : [`${last || first.replace(/\d+$/, "")}`, 1];
  while (names.includes(`${stem}${number}`)) number++;
  if (!names.length) return first;
  if (!found && !stem.endsWith(" ")) stem = `${stem} `;
  return `${stem}${number}`;
}

export function OpeningsOfLine({ line, length }: { line: Line; length: number }) {
  const { edit } = useChanges();
  const { set } = usePart("set");
  const openings = line.openings ?? [];
  const marks = namedMarks(line);
  const legs = lineFigures(useShown(), line.id)?.legs ?? [{ begin: 0, end: length }];
  const setOpening = (opening: Opening, changes: Partial<Opening>) =>
    edit([{ kind: "set_opening", line: line.id, opening: opening.id, changes } as Edit]);
  const setMark = (mark: Mark, changes: Partial<Mark>) =>
    edit([{ kind: "set_mark", line: line.id, mark: mark.id, changes } as Edit]);
  return (
    <>
      <Asked
        question="Where is it open?"
        answer={openings.length ? openings.map((one) => one.name).join(", ") : "nowhere"}
      >
        {openings.map((opening, index) => (
          <div key={opening.id} className="mb-1.5 border-edge border-l-2 pl-2.5">
            <div className="flex items-center gap-2 text-sm">
              <TextField
                label={`Name of opening ${index + 1}`}
                value={opening.name}
                small
                take={(name) => setOpening(opening, { name })}
              />
              <Words
                title={`Remove opening ${opening.name}`}
                onClick={() => void edit([{ kind: "remove_openings", line: line.id, openings: [opening.id ?? ""] }])}
              >
                Remove
              </Words>
            </div>
            <LengthField
              label="From chainage"
              mm={opening.at}
              bound={{ thing: line.id, field: `openings.${opening.id}.at` }}
              take={(at) => setOpening(opening, { at })}
            />
            <LengthField
              label="Width"
              mm={opening.width}
              bound={{ thing: line.id, field: `openings.${opening.id}.width` }}
              take={(width) => setOpening(opening, { width })}
            />
            {opening.unsettled && (
              <Unsettled name={opening.name} right={() => setOpening(opening, { at: opening.at })} />
            )}
          </div>
        ))}
        <p className="text-sm">
          <Words
            onClick={() => {
              const width = Math.min(900, length / 3);
              const name = nextName(
                openings.map((one) => one.name),
                "D1",
              );
              const at = freePlace(openings, legs, width);
              void edit([{ kind: "add_openings", line: line.id, openings: [{ name, at, width }] } as Edit]);
            }}
          >
            Add an opening
          </Words>{" "}
          · <Words onClick={() => set({ dialog: "openings" })}>Several from a list</Words>
        </p>
      </Asked>
      {marks.length > 0 && (
        <Asked question="Which places have names?" answer={marks.map((mark) => mark.name).join(", ")}>
          {marks.map((mark, index) => (
            <div key={mark.id} className="mb-1 border-edge border-l-2 pl-2.5">
              <div className="flex items-center gap-2 text-sm">
                <TextField
                  label={`Name of mark ${index + 1}`}
                  value={mark.name}
                  small
                  take={(name) => setMark(mark, { name })}
                />
                <Words
                  title={`Remove mark ${mark.name}`}
                  onClick={() => void edit([{ kind: "remove_marks", line: line.id, marks: [mark.id ?? ""] }])}
                >
                  Remove
                </Words>
              </div>
              <LengthField
                label="At chainage"
                mm={mark.at}
                bound={{ thing: line.id, field: `marks.${mark.id}.at` }}
                take={(at) => setMark(mark, { at })}
              />
              {mark.unsettled && <Unsettled name={mark.name} right={() => setMark(mark, { at: mark.at })} />}
            </div>
          ))}
        </Asked>
      )}
    </>
  );
}

/** What a drawing that was brought in again has moved away from. */
function Unsettled({ name, right }: { name: string; right: () => unknown }) {
  return (
    <p className="mt-1 border-wax border-l-[3px] bg-wax-wash px-2 py-1 text-sm">
      <b className="text-wax-deep">?</b> The line was drawn otherwise when it was imported again.{" "}
      <Words title={`${name} is right there`} onClick={() => void right()}>
        It is right there
      </Words>
    </p>
  );
}

/** Where an opening of a width stands at first: in the middle of the longest part of a leg without one, clear of corners. */
function freePlace(openings: Opening[], legs: { begin: number; end: number }[], width: number): number {
  let [begin, end] = [0, 0];
  for (const leg of legs) {
    const taken = openings.filter((one) => one.at < leg.end && one.at + one.width > leg.begin);
    let from = leg.begin;
    for (const one of [...taken.sort((a, b) => a.at - b.at), { at: leg.end, width: 0 }]) {
      if (one.at - from > end - begin) [begin, end] = [from, one.at];
      from = Math.max(from, one.at + one.width);
    }
  }
  return Math.max(0, Math.round((begin + end - width) / 2));
}
