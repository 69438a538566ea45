/** How a line is made, where it follows something: its walk, the line it lies beside, the two it lies between. */
import type { Line } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Words } from "../../ui/choices";
import { LengthField, LongTextField } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { useWindow } from "../../window/store";
import { lineById, runById } from "../../window/things";
import { MeasuredTo } from "../MeasuredTo";
import { FrameOfLine } from "./FrameOfLine";

const WAYS = {
  walk: "a walk",
  offset: "beside a line",
  set_out: "set out for a run",
  midway: "midway",
  strip_edge: "an edge of a strip",
  frame: "a frame",
  frame_bar: "a bar of a frame",
  frame_pane: "a pane of a frame",
} as const;

export function HowMade({ line }: { line: Line }) {
  const shown = useShown();
  const { edit } = useChanges();
  const select = useWindow((state) => state.select);
  const { made } = line;
  if (!made) return null;
  const set = (changes: object | null) => edit([{ kind: "set_made", line: line.id, changes }]);
  const named = (id: string) => (
    <Words onClick={() => select([id])}>{(lineById(shown, id) ?? runById(shown, id))?.name ?? id}</Words>
  );
  return (
    <Asked question="How is it made?" answer={WAYS[made.kind]}>
      {made.kind === "walk" && <LongTextField label="Walk" value={made.text} take={(text) => set({ text })} />}
      {made.kind === "offset" && (
        <>
          <p className="text-sm">It stays beside {named(made.line)}.</p>
          <LengthField
            label="Distance"
            mm={Math.abs(made.distance)}
            take={(mm) => set({ distance: Math.sign(made.distance || 1) * mm })}
          />
          <Choice
            label="Side"
            value={made.distance < 0 ? "left" : "right"}
            ways={[
              ["left", "Left of travel"],
              ["right", "Right of travel"],
            ]}
            choose={(side) =>
              void set({ distance: side === "left" ? -Math.abs(made.distance) : Math.abs(made.distance) })
            }
          />
        </>
      )}
      {made.kind === "set_out" && (
        <>
          <p className="mb-1 text-sm">
            It is set out for {named(made.run)}, where its datum has to be for its faces to lie so from{" "}
            {named(made.line)}:
          </p>
          <MeasuredTo value={made} bound={{ thing: line.id, path: "made" }} various={() => undefined} set={set} />
        </>
      )}
      {made.kind === "frame" && <FrameOfLine line={line} made={made} />}
      {made.kind === "frame_bar" && <p className="text-sm">It divides {named(made.line)}.</p>}
      {made.kind === "frame_pane" && <p className="text-sm">It is the edge of a pane in {named(made.line)}.</p>}
      {made.kind === "strip_edge" && (
        <p className="text-sm">
          It stays the {made.side} edge of the strip along {named(made.line)}.
        </p>
      )}
      {made.kind === "midway" && (
        <p className="text-sm">
          It stays midway between {named(made.lines[0])} and {named(made.lines[1])}.
        </p>
      )}
      <p className="mt-1 text-pencil text-sm">
        Changed by hand it stops following. <Words onClick={() => void set(null)}>Stop following</Words>
      </p>
    </Asked>
  );
}
