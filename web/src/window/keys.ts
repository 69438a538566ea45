/** Every key the window knows, in one list: the page that lists them is made from it. */
import { useEffect } from "react";
import type { Edit } from "../api/client";
import { emptyDraft } from "../drafting/draft";
import { EMPTY } from "../sectiondesk/sketch";
import { type Changes, useChanges, useShown } from "./job";
import { isIn } from "./selection";
import { useWindow } from "./store";
import { lineById, pointId, runById, runFigures } from "./things";
import { VIEWS, wayOf } from "./views";

/** The keys that show views: those to work in, or those that are places for one thing. */
function viewKeys(left: boolean): [string, string][] {
  return VIEWS.map(({ view }) => wayOf(view)).flatMap(({ key, words, ...way }) =>
    key && words && Boolean(way.left) === left ? [[key, words] as [string, string]] : [],
  );
}

export const keyGroups: [string, [string, string][]][] = [
  [
    "Anywhere",
    [
      ["Ctrl Z", "undo"],
      ["Ctrl Shift Z", "redo"],
      ["Esc", "cancel what is going on, then select nothing"],
      ["Delete", "remove the picked point, or what is selected"],
      ["?", "shortcuts, where single letters can be turned off"],
    ],
  ],
  [
    "Views",
    [
      ...viewKeys(false),
      ["E", "pick an upright plane to draw on; again for the plan"],
      ["Home", "fit all, or the selection"],
      ["+ −", "nearer, further"],
      ["Arrows", "move the plan, turn the 3D view (when the sheet has the focus)"],
    ],
  ],
  [
    "The work",
    [
      ["N", "draw a new line"],
      ["W", "type a walk"],
      ["M", "measures of the job"],
      ["A", "ask a dimension between two places"],
      ["V", "reverse the selected lines"],
      ...viewKeys(true),
      ["R", "run a section along lines"],
      ["I", "set items out along a line"],
      ["H", "other hand: let the selected runs face the other way"],
      ["D", "next datum for the selected runs"],
    ],
  ],
  [
    "While drawing a line",
    [
      ["0–9", "type the length of the leg"],
      ["Tab", "from length to turn and rise, and back"],
      ["M", "another kind of leg: arc, spline, catenary"],
      ["S", "sharp or smooth at the last point of a spline"],
      ["Enter", "take the typed leg; with nothing typed, finish"],
      ["Backspace", "step back one leg (with nothing typed)"],
      ["C", "close the line"],
      ["Alt", "hold: do not snap"],
    ],
  ],
  [
    "The cut across a line",
    [
      ["Arrows", "move the selected run by 1 mm, with Shift by 10 mm (when the cut has the focus)"],
      ["[ ]", "turn it by 1°, with Shift by 15°"],
      ["Alt", "hold: do not snap"],
    ],
  ],
  [
    "Section desk",
    [
      ["Shift click", "pick several points or edges"],
      ["Delete", "take out the picked points"],
      ["Arrows", "move the picked points by 1 mm, with Shift by 0.1 mm"],
      ["Alt", "hold: do not snap; part a curve's handle from its neighbour"],
      ["Enter", "while drawing an outline: take the typed edge; with nothing typed, close it"],
      ["Backspace", "while drawing an outline: step back one point"],
    ],
  ],
  [
    "Job sheet and rod",
    [
      ["↑ ↓", "go through the job"],
      ["← →", "on the rod: from piece to piece"],
      ["Shift ↑ ↓", "take in the next of the same kind"],
      ["Ctrl click", "select several of a kind"],
      ["Shift click", "select all from the first to this one"],
      ["Ctrl A", "select all of the step"],
      ["Tab", "to the next part of the window"],
    ],
  ],
];

export const datumOrder = [
  "back-foot",
  "middle-foot",
  "front-foot",
  "front-middle",
  "front-head",
  "middle-head",
  "back-head",
  "back-middle",
  "middle",
] as const;

export function useKeys() {
  const shown = useShown();
  const changes = useChanges();
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const state = useWindow.getState();
      const typing =
        event.target instanceof HTMLElement && event.target.matches("input, textarea, select, [role=listbox]");
      const modified = event.ctrlKey || event.metaKey;
      if (modified && !event.altKey && event.key.toLowerCase() === "z" && !(typing && changed(event.target))) {
        event.preventDefault();
        void changes.step(event.shiftKey ? "redo" : "undo");
        return;
      }
      if (modified && event.key.toLowerCase() === "y") {
        event.preventDefault();
        void changes.step("redo");
        return;
      }
      if (event.key === "Escape" && !state.dialog && !state.conflict && !state.ask) {
        leave();
        return;
      }
      if (typing || modified || event.altKey || state.dialog || state.conflict || state.ask || state.draft) return;
      if (event.key.length === 1 && !state.letters) return;
      const act = plain[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (act) {
        event.preventDefault();
        act(shown, changes);
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [shown, changes]);
}

function changed(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.dataset.dirty === "true";
}

function leave() {
  const state = useWindow.getState();
  if (state.problem || state.notice) state.set({ problem: null, notice: null });
  else if (state.picking) state.set({ picking: null });
  else if (state.draft) state.set({ draft: null });
  else if (state.asked) state.set({ asked: null });
  else if (state.outline) {
    state.set({ outline: null });
    state.show(state.drawing);
  } else if (state.view === "section" && state.parts.length) state.set({ parts: [] });
  else if (wayOf(state.view).left) {
    state.set({ selected: [] });
    state.show(state.drawing);
  } else if (state.point !== null) state.pickPoint(null);
  else if (state.piece !== null) state.set({ piece: null });
  else state.select([]);
}

type Shown = ReturnType<typeof useShown>;
const plain: Record<string, (shown: Shown, changes: Changes) => void> = {
  "?": () => useWindow.getState().set({ dialog: "keys" }),
  ...Object.fromEntries(
    VIEWS.flatMap((way) => ("key" in way ? [[way.key.toLowerCase(), () => useWindow.getState().show(way.view)]] : [])),
  ),
  Home: () => useWindow.getState().set({ fit: useWindow.getState().fit + 1 }),
  n: () => startDrawing(),
  w: () => useWindow.getState().set({ dialog: "walk" }),
  m: () => useWindow.getState().set({ dialog: "measures" }),
  a: () => askDimension(),
  e: () => pickPlane(),
  v: (_, { edit }) => {
    const lines = useWindow.getState().selected.filter((id) => useWindow.getState().groupOf(id) === "lines");
    if (lines.length) void edit([{ kind: "reverse_lines", lines }]);
  },
  r: () => useWindow.getState().set({ dialog: "run" }),
  i: () => useWindow.getState().set({ dialog: "row" }),
  h: (shown, { edit }) => {
    const edits = otherHand(shown, useWindow.getState().selected);
    if (edits.length) void edit(edits);
  },
  d: (shown, { edit }) => {
    const edits = nextDatum(shown, useWindow.getState().selected);
    if (edits.length) void edit(edits);
  },
  Delete: (shown, changes) => remove(shown, changes),
};

/** Ask for two places, and tell the figures between them. */
export function askDimension() {
  const state = useWindow.getState();
  if (state.view !== "plan") state.show("plan");
  state.set({
    draft: null,
    picking: {
      ask: ["Dimension from which place?", "… to which place?"],
      spots: [],
      done: ([a, b]) => a && b && useWindow.getState().set({ asked: [a, b] }),
    },
  });
}

/** Pick an upright plane by two points on plan, or go back to the plan. */
export function pickPlane() {
  const state = useWindow.getState();
  if (state.view !== "plan") state.show("plan");
  if (state.plane) {
    state.set({ plane: null, fit: state.fit + 1 });
    return;
  }
  state.set({
    draft: null,
    picking: {
      ask: ["An upright plane, from which point …", "… to which? It is looked at with the first on the left"],
      spots: [],
      done: ([a, b]) => {
        if (!a || !b || Math.hypot(b.point[0] - a.point[0], b.point[1] - a.point[1]) < 1) return;
        const now = useWindow.getState();
        now.set({
          plane: { a: [a.point[0], a.point[1]], b: [b.point[0], b.point[1]] },
          selected: [],
          fit: now.fit + 1,
        });
      },
    },
  });
}

/** Draw the outline of a new section on the desk. */
export function startOutline() {
  const state = useWindow.getState();
  state.set({ selected: [], draft: null, picking: null, parts: [], outline: EMPTY });
  state.show("section");
}

export function startDrawing() {
  const state = useWindow.getState();
  state.show("plan");
  state.set({ draft: { ...emptyDraft }, picking: null, selected: [], piece: null, point: null });
}

/** Let every selected run face the other way, whatever it faced. */
export function otherHand(shown: Shown, ids: string[]): Edit[] {
  return ids.flatMap((id) => {
    const figures = runFigures(shown, id);
    if (!figures || !runById(shown, id)) return [];
    return [{ kind: "set_placing", runs: [id], changes: { facing: { kind: figures.right ? "left" : "right" } } }];
  });
}

export function nextDatum(shown: Shown, ids: string[]): Edit[] {
  const runs = ids.filter((id) => runById(shown, id));
  const first = runById(shown, runs[0]);
  if (!first) return [];
  const section = shown.job.sections?.find((one) => one.id === first.section);
  const datum = first.placing?.datum ?? section?.datum;
  const at = datum?.kind === "named" ? datumOrder.indexOf(datum.name as (typeof datumOrder)[number]) : -1;
  const name = datumOrder[(at + 1) % datumOrder.length] ?? "back-foot";
  return [{ kind: "set_placing", runs, changes: { datum: { kind: "named", name } } }];
}

export function remove(shown: Shown, { edit }: Changes) {
  const { selected, point, parts, view, set } = useWindow.getState();
  if (!selected.length) return;
  const line = selected[0];
  if (view === "section" && parts.length) {
    // From the last on, so that the others are counted as before.
    const points = parts.filter((part) => part.kind === "point").sort((a, b) => b.index - a.index);
    const edits = points.map(({ loop, index }) => ({ kind: "take_outline_point", section: line, loop, point: index }));
    if (edits.length) void edit(edits as Edit[]).then((problem) => problem || set({ parts: [] }));
    return;
  }
  if (point !== null && line && useWindow.getState().groupOf(line) === "lines") {
    void edit([{ kind: "remove_vertex", line, point: pointId(lineById(shown, line), point) }]);
    return;
  }
  const { places, groupOf } = useWindow.getState();
  if (line && places.length && groupOf(line) === "typicals") {
    // Of a typical the places that are picked, and not all of it.
    const typical = shown.job.typicals?.find((one) => one.id === line);
    const ids = (typical?.places ?? []).filter((one) => places.includes(one.name)).map((one) => one.id);
    if (ids.length) {
      void edit([{ kind: "remove_places", typical: line, places: ids } as Edit]).then(
        (problem) => problem || set({ places: [] }),
      );
      return;
    }
  }
  const standing = [...(shown.job.runs ?? []), ...(shown.job.rows ?? [])].filter(
    (thing) =>
      !isIn(selected, thing.id) &&
      (isIn(selected, thing.line) || ("section" in thing && isIn(selected, thing.section))),
  );
  const act = () => void edit([{ kind: "remove", ids: selected, with_dependents: standing.length > 0 }]);
  if (!standing.length) act();
  else {
    const names = standing.slice(0, 3).map((thing) => thing.name);
    const more = standing.length > 3 ? ` and ${standing.length - 3} more` : "";
    set({
      ask: {
        what: `${names.join(", ")}${more} would go with it. Undo brings all of it back.`,
        yes: "Remove them together",
        act,
      },
    });
  }
}
