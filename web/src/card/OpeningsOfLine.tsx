/** The openings and named marks of a line. */
import type { Edit, Line, Mark, Opening } from "../api/client";
import { Words } from "../ui/choices";
import { LengthField, Question, TextField } from "../ui/fields";
import { useChanges } from "../window/job";
import { useWindow } from "../window/store";

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
  const { set } = useWindow();
  const openings = line.openings ?? [];
  const marks = line.marks ?? [];
  const setOpenings = (next: Opening[]) => edit([{ kind: "set_openings", line: line.id, openings: next } as Edit]);
  const setMarks = (next: Mark[]) => edit([{ kind: "set_marks", line: line.id, marks: next } as Edit]);
  const changed = (index: number, part: Partial<Opening>) =>
    setOpenings(openings.map((one, i) => (i === index ? { ...one, ...part } : one)));
  return (
    <>
      <Question>Where is it open?</Question>
      {openings.map((opening, index) => (
        <div key={`${opening.name}${index}`} className="mb-1.5 border-edge border-l-2 pl-2.5">
          <div className="flex items-center gap-2 text-sm">
            <TextField
              label={`Name of opening ${index + 1}`}
              value={opening.name}
              small
              take={(name) => changed(index, { name })}
            />
            <Words onClick={() => void setOpenings(openings.filter((_, i) => i !== index))}>out</Words>
          </div>
          <LengthField
            label="From chainage"
            mm={opening.at}
            bound={{ thing: line.id, field: `openings.${index}.at` }}
            take={(at) => changed(index, { at })}
          />
          <LengthField
            label="Width"
            mm={opening.width}
            bound={{ thing: line.id, field: `openings.${index}.width` }}
            take={(width) => changed(index, { width })}
          />
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
            void setOpenings([...openings, { name, at: freePlace(openings, length, width), width }]);
          }}
        >
          Add an opening
        </Words>{" "}
        · <Words onClick={() => set({ dialog: "openings" })}>Several from a list</Words>
      </p>
      {marks.length > 0 && (
        <>
          <Question>Which places have names?</Question>
          {marks.map((mark, index) => (
            <div key={`${mark.name}${index}`} className="mb-1 border-edge border-l-2 pl-2.5">
              <div className="flex items-center gap-2 text-sm">
                <TextField
                  label={`Name of mark ${index + 1}`}
                  value={mark.name}
                  small
                  take={(name) => setMarks(marks.map((one, i) => (i === index ? { ...one, name } : one)))}
                />
                <Words onClick={() => void setMarks(marks.filter((_, i) => i !== index))}>out</Words>
              </div>
              <LengthField
                label="At chainage"
                mm={mark.at}
                bound={{ thing: line.id, field: `marks.${index}.at` }}
                take={(at) => setMarks(marks.map((one, i) => (i === index ? { ...one, at } : one)))}
              />
            </div>
          ))}
        </>
      )}
    </>
  );
}

/** The first place along a line where an opening of a width lies over no other. */
function freePlace(openings: Opening[], length: number, width: number): number {
  for (let at = length / 3; at + width < length; at += width / 2) {
    if (openings.every((one) => at + width <= one.at || at >= one.at + one.width)) return Math.round(at);
  }
  return 0;
}
