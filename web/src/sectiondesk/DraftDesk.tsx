/** Outlines that are no sections yet: a new one, and a draft that was kept. */
import { useMemo, useState } from "react";
import type { Draft, Edit } from "../api/client";
import { Button } from "../ui/choices";
import { useChanges, useShown } from "../window/job";
import { useWindow } from "../window/store";
import type { Spot } from "./frame";
import { SketchDesk } from "./SketchDesk";
import { EMPTY, isClosed, type OutlineSketch, outlineIn, spotsOf } from "./sketch";

/** A new outline, drawn from its first point on. */
export function NewOutline() {
  const shown = useShown();
  const { make } = useChanges();
  const set = useWindow((state) => state.set);
  const sketch = useWindow((state) => state.outline) ?? EMPTY;
  const [wrong, setWrong] = useState("");
  const outline = outlineIn(sketch);
  const put = (to: OutlineSketch) => {
    set({ outline: to });
    setWrong("");
  };
  const done = async (edits: Edit[]) => {
    const { problem } = await make(edits, (ids) => set({ outline: null, selected: ids, view: "section" }));
    if (!problem) return;
    setWrong(problem.detail);
    set({ problem: null });
  };
  const name = `Section ${(shown.job.sections?.length ?? 0) + 1}`;
  const finish = async () => {
    const spots = spotsOf(sketch);
    if (spots.length < 3 || !sketch.start || !outline) {
      setWrong("An outline needs three points at least.");
      return;
    }
    const closed = isClosed(sketch)
      ? outline
      : { ...outline, edges: [...outline.edges, { kind: "straight" as const, to: sketch.start }] };
    const across = spots.map(([x]) => x);
    const up = spots.map(([, y]) => y);
    const size = { width: Math.max(...across) - Math.min(...across), height: Math.max(...up) - Math.min(...up) };
    await done([{ kind: "add_section", section: { name, outline: closed, ...size } } as unknown as Edit]);
  };
  const keep = () =>
    outline &&
    void done([{ kind: "keep_draft", draft: { name, outline, holes: [], section: null } } as unknown as Edit]);
  return (
    <SketchDesk sketch={sketch} put={put} finish={() => void finish()} drawing wrong={wrong} say={setWrong}>
      <Button onClick={() => set({ outline: null, view: useWindow.getState().drawing })}>Cancel</Button>
      <Button disabled={!outline} onClick={() => keep()}>
        Keep as a draft
      </Button>
      <Button strong disabled={spotsOf(sketch).length < 3} onClick={() => void finish()}>
        Close the outline
      </Button>
    </SketchDesk>
  );
}

/** A draft: every change of it is kept, and can be undone, as everything in the job. */
export function DraftDesk({ draft }: { draft: Draft }) {
  const { edit } = useChanges();
  const [wrong, setWrong] = useState("");
  // What is under the hand, until the service has it.
  const [moving, setMoving] = useState<OutlineSketch | null>(null);
  const [begun, setBegun] = useState<OutlineSketch>(EMPTY);
  const sketch = moving ?? (draft.outline as OutlineSketch | undefined) ?? begun;
  const shown = useShown();
  const room = useMemo(
    () =>
      (shown.job.pictures ?? [])
        .filter((picture) => picture.on === draft.id)
        .flatMap(({ east = 0, north = 0, across, high, scale }): Spot[] => [
          [east, north],
          [east + across * scale, north + high * scale],
        ]),
    [shown.job.pictures, draft.id],
  );
  const put = async (to: OutlineSketch) => {
    const outline = outlineIn(to);
    if (!outline) {
      // Its first point is this window's, until there is an edge.
      setBegun(to);
      if (draft.outline) setWrong("A draft has one edge at least: remove the draft instead.");
      return;
    }
    setMoving(to);
    setWrong("");
    const problem = await edit([{ kind: "set_draft", draft: draft.id, outline } as unknown as Edit]);
    // What was drawn since is still on its way.
    setMoving((now) => (now === to ? null : now));
    if (problem) setWrong(problem.detail);
  };
  return (
    <SketchDesk
      sketch={sketch}
      on={draft.id}
      room={room}
      holes={draft.holes}
      put={(to) => void put(to)}
      finish={null}
      drawing={!isClosed(sketch)}
      wrong={wrong}
      say={setWrong}
    />
  );
}
