/** Several openings from a list: a name, where it begins and how wide it is, a row for each. */
import { useContext, useState } from "react";
import { type Edit, problemOf } from "../api/client";
import { Button } from "../ui/choices";
import { readLength } from "../ui/fields";
import { fieldLength } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { JobId, useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { lineById } from "../window/things";

export function Openings({ close }: { close: () => void }) {
  const shown = useShown();
  const units = useUnits();
  const job = useContext(JobId);
  const { edit } = useChanges();
  const line = lineById(shown, useWindow((state) => state.selected)[0]);
  const written = (line?.openings ?? []).map(
    (one) => `${one.name}; ${fieldLength(one.at, units)}; ${fieldLength(one.width, units)}`,
  );
  const [before] = useState(line?.openings);
  const [text, setText] = useState(written.join("\n"));
  const [wrong, setWrong] = useState("");
  if (!line) return null;
  const save = async () => {
    try {
      const rows = text
        .split("\n")
        .map((row, index) => ({ row, index }))
        .filter(({ row }) => row.trim());
      const openings = await Promise.all(
        rows.map(async ({ row, index }) => {
          const [name = "", at, width, ...more] = row.split(/[;\t]/).map((cell) => cell.trim());
          if (!name || at === undefined || width === undefined || more.length)
            throw new Error(`Row ${index + 1} should be a name; a chainage; a width: “${row.trim()}”.`);
          const system = units.system ?? "mm";
          try {
            return { name, at: await readLength(at, system, job), width: await readLength(width, system, job) };
          } catch (error) {
            throw new Error(`Row ${index + 1}: ${problemOf(error).detail}`);
          }
        }),
      );
      // Only what was changed of those there were is said.
      const old = before ?? [];
      const gone = old.filter((one) => !openings.some((row) => row.name === one.name));
      const added = openings.filter((row) => !old.some((one) => one.name === row.name));
      const edits = [
        ...(gone.length ? [{ kind: "remove_openings", line: line.id, openings: gone.map((one) => one.id) }] : []),
        ...openings.flatMap((row) => {
          const one = old.find((opening) => opening.name === row.name);
          if (!one) return [];
          const same = (mm: number, was: number) => fieldLength(mm, units) === fieldLength(was, units);
          const changes = {
            ...(same(row.at, one.at) ? {} : { at: row.at }),
            ...(same(row.width, one.width) ? {} : { width: row.width }),
          };
          if (!Object.keys(changes).length) return [];
          return [{ kind: "set_opening", line: line.id, opening: one.id, changes }];
        }),
        ...(added.length ? [{ kind: "add_openings", line: line.id, openings: added }] : []),
      ];
      const problem = edits.length ? await edit(edits as Edit[]) : null;
      if (problem) setWrong(problem.detail);
      else close();
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
  };
  return (
    <Modal title={`Openings of ${line.name}`} close={close}>
      <p className="mb-2 text-pencil text-sm">A row for each: its name; the chainage it begins at; its width.</p>
      <textarea
        aria-label="Openings"
        className="figure h-48 w-full rounded-[3px] border border-edge bg-paper px-2 py-1.5"
        placeholder={"Door D1; 3200; 900\nDoor D2; 8.4 m; 1200"}
        value={text}
        spellCheck={false}
        onChange={(event) => setText(event.target.value)}
      />
      {wrong && (
        <p role="alert" className="text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong onClick={() => void save()}>
          Set the openings
        </Button>
      </div>
    </Modal>
  );
}
