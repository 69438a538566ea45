/** Run a section along lines: which section, which lines, which side it faces. */
import { useState } from "react";
import type { Edit, Point3 } from "../../api/client";
import { Button, Choice, Pick, Tick, Words } from "../../ui/choices";
import { Setting } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { Modal, ModalFoot } from "../../ui/Modal";
import { useChanges, useShown, useUnits } from "../../window/job";
import { isIn } from "../../window/selection";
import { usePart } from "../../window/store";
import { lineById, lineFigures, lineOf, linePoints, stretchWords } from "../../window/things";

type Way = "left" | "right" | "toward" | "room";

export function NewRuns({ close }: { close: () => void }) {
  const shown = useShown();
  const units = useUnits();
  const { make: send } = useChanges();
  const { selected, show, select, stretches } = usePart("selected", "show", "select", "stretches");
  const all = shown.job.lines ?? [];
  const sections = shown.job.sections ?? [];
  const from = [...new Set(selected.map((id) => lineOf(shown, id)?.id).filter((id) => id !== undefined))];
  const [lines, setLines] = useState<string[]>(from.length ? from : all.length === 1 ? [all[0]?.id ?? ""] : []);
  const [section, setSection] = useState(
    sections.find((one) => isIn(selected, one.id))?.id ?? sections.at(-1)?.id ?? null,
  );
  const [way, setWay] = useState<Way>("toward");
  const [wrong, setWrong] = useState("");
  if (!all.length || !sections.length) {
    return (
      <Modal title="Run a section along lines" close={close}>
        <p className="mb-4">
          {all.length
            ? "There is no section in the job yet: pick one from the library first."
            : "There is no line in the job yet: draw one, or import a drawing."}
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={close}>Close</Button>
          <Button
            strong
            onClick={() => {
              close();
              show(all.length ? "library" : "plan");
            }}
          >
            {all.length ? "To the library" : "To the plan"}
          </Button>
        </div>
      </Modal>
    );
  }
  const make = async () => {
    const points = lines.flatMap((id) => {
      const line = lineById(shown, id);
      return line ? linePoints(line) : [];
    });
    const [left, right] = [Math.min(...points.map((p) => p[0])), Math.max(...points.map((p) => p[0]))];
    const [low, high] = [Math.min(...points.map((p) => p[1])), Math.max(...points.map((p) => p[1]))];
    const middle: Point3 = [Math.round((left + right) / 2), Math.round((low + high) / 2), 0];
    const facing =
      way === "toward" ? { kind: way, point: middle } : way === "room" ? { kind: way, lines } : { kind: way };
    const only = lines.length === 1 && lines[0] === selected[0] ? stretches : null;
    const made = { kind: "add_runs", section, lines, placing: { facing }, stretches: only };
    const { problem } = await send([made as Edit], (ids) => {
      close();
      select(ids);
    });
    if (problem) setWrong(problem.detail);
  };
  return (
    <Modal title="Run a section along lines" close={close}>
      <Setting label="Section">
        <Pick
          label="Section"
          value={section}
          ways={sections.map((one): [string, string] => [one.id, one.name])}
          choose={setSection}
        />
      </Setting>
      <div className="mt-2 mb-1 flex items-baseline justify-between">
        <span className="text-pencil text-sm">Lines, each becoming a run of its own</span>
        <Words onClick={() => setLines(lines.length === all.length ? [] : all.map((line) => line.id))}>
          {lines.length === all.length ? "none" : "all"}
        </Words>
      </div>
      <div className="max-h-56 overflow-auto rounded-[3px] border border-rule bg-paper px-3 py-1">
        {all.map((line) => (
          <div key={line.id} className="flex items-center justify-between">
            <Tick
              label={line.name}
              checked={lines.includes(line.id)}
              set={(on) => setLines(on ? [...lines, line.id] : lines.filter((id) => id !== line.id))}
            />
            <span className="figure text-pencil text-sm">
              {formatLength(lineFigures(shown, line.id)?.length ?? 0, units)}
            </span>
          </div>
        ))}
      </div>
      {stretches && lines.length === 1 && lines[0] === selected[0] && (
        <p className="mt-2 text-sm">
          Only {stretches.map((one) => stretchWords(shown, lines[0] ?? "", one)).join(" and ")}, as chosen on the rod.
        </p>
      )}
      <p className="mt-3 mb-1 text-pencil text-sm">Which side does it face?</p>
      <Choice<Way>
        label="Facing"
        value={way}
        ways={[
          ["left", "Left of travel"],
          ["right", "Right of travel"],
          ["toward", "Their middle"],
          ["room", "Into the room"],
        ]}
        choose={setWay}
      />
      <ModalFoot
        {...{ wrong, close }}
        act={() => void make()}
        words={lines.length ? `Make ${count(lines.length, "run")}` : "Choose a line"}
        disabled={!section || !lines.length}
      />
    </Modal>
  );
}
