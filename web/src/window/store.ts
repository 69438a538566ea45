/** What only this window knows: the view, what is selected and pointed at, what is being drawn. */
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Between, Edit, JobShown, OutlineThickened, Point3, Problem } from "../api/client";
import type { Group } from "../api/groups";
import type { OutlineSketch } from "../sectiondesk/sketch";
import { type View, wayOf } from "./views";

/** Where this browser keeps whether single letters are keys. */
const LETTERS = "slow-ribbon-single-letters";

/** How the next leg of a line is drawn. */
export type Mode = "straight" | "arc" | "bulge" | "curve" | "cord";

/** A line being drawn: the steps of a walk. */
export interface DraftLine {
  start: Point3 | null;
  steps: string[];
  mode: Mode;
  /** Height of the points that are clicked, mm. */
  height: number;
  /** Points of the spline through points that is the last step. */
  curve: { at: Point3; sharp: boolean }[];
  /** The point on an arc, clicked before its end. */
  via: Point3 | null;
  sag: string;
}

/** An upright plane through two points on plan, and the side it is looked at from: with a on the left. */
export interface Plane {
  a: [number, number];
  b: [number, number];
}

/** A point or an edge of the outline that is drawn on: loop 0 is the outline, from 1 on its holes. */
export interface Part {
  kind: "point" | "edge";
  loop: number;
  index: number;
}

/** A place on a line, wherever it is pointed at. */
export interface Place {
  line: string;
  chainage: number;
}

export interface Conflict {
  edits: Edit[];
  changes: string[];
  current: number;
}

/** A change that could not be sent yet: why, and what can be done with it. */
export interface Waiting {
  problem: Problem;
  again: () => void;
  discard: () => void;
}

interface Ask {
  what: string;
  yes: string;
  act: () => void;
}

export type Dialog =
  | "run"
  | "row"
  | "handover"
  | "keys"
  | "history"
  | "walk"
  | "frame"
  | "measures"
  | "copy"
  | "follow"
  | "simplify"
  | "openings"
  | "rules"
  | "places"
  | "clashes";

/** A spot picked in the drawing: on a line where there is one under the hand. */
export interface PickedSpot {
  point: Point3;
  place: Place | null;
}

export interface Picking {
  /** What is asked for, in words, for each spot in turn. */
  ask: string[];
  spots: PickedSpot[];
  done: (spots: PickedSpot[]) => void;
}

interface WindowState {
  view: View;
  /** The drawing that other views come back to. */
  drawing: View;
  selected: string[];
  piece: number | null;
  /** Whether the card is asked for where it does not stand by itself. */
  cardAsked: boolean;
  point: number | null;
  /** Corners of the selected run that are picked, by the points of its line. */
  corners: number[];
  /** Places of the selected typical that are picked, by their names. */
  places: string[];
  pointed: Place | null;
  /** A line being drawn; null when none is. */
  /** Which group of the open job a thing belongs to. */
  groupOf: (id: string) => Group | null;
  draft: DraftLine | null;
  /** The upright plane that is looked at in place of the plan. */
  plane: Plane | null;
  /** Places picked in the drawing for something that asks for them, and what for. */
  picking: Picking | null;
  /** The chainage picked on the rod of a line, to do something at. */
  chainage: number | null;
  /** The two places a dimension is asked between. */
  asked: [PickedSpot, PickedSpot] | null;
  /** Points and edges of the outline on the desk that are picked. */
  parts: Part[];
  /** A new outline being drawn; null when none is. */
  outline: OutlineSketch | null;
  /** Two places of a picture on the desk being picked, to set it to scale. */
  scaling: { picture: string; length: number; words: string; first: [number, number] | null } | null;
  /** What an outline on the desk would be with a thickness, while that is looked at. */
  thickened: OutlineThickened | null;
  /** Whether the desk shows the range of the section. */
  ranged: boolean;
  /** Stretches between openings that are selected, of the selected line. */
  stretches: Between[] | null;
  preview: JobShown | null;
  problem: Problem | null;
  notice: string | null;
  waiting: Waiting | null;
  conflict: Conflict | null;
  ask: Ask | null;
  dialog: Dialog | null;
  fit: number;
  /** Whether single letters are keys; it can be turned off, for those who speak to their machine or touch keys unmeant. */
  letters: boolean;
  /** A place to bring into view. */
  look: Point3 | null;
  show: (view: View) => void;
  select: (ids: string[], piece?: number | null) => void;
  /** Select those of several things that are of one kind with the first; the view stays. */
  selectAlike: (ids: string[]) => void;
  toggle: (id: string) => void;
  pickPoint: (point: number | null) => void;
  /** Select a typical with one of its places picked; with `more` picked besides those that are, or let go. */
  pickPlace: (typical: string, place: string, more?: boolean) => void;
  /** Pick a corner of the selected run, or one more of them; picked again it is let go. */
  pickCorner: (vertex: number, more: boolean) => void;
  pointAt: (place: Place | null) => void;
  set: (part: Partial<WindowState>) => void;
}

export const useWindow = create<WindowState>((set) => ({
  view: "plan",
  drawing: "plan",
  selected: [],
  cardAsked: false,
  piece: null,
  point: null,
  corners: [],
  places: [],
  pointed: null,
  groupOf: () => null,
  draft: null,
  plane: null,
  picking: null,
  asked: null,
  chainage: null,
  parts: [],
  outline: null,
  thickened: null,
  scaling: null,
  ranged: false,
  stretches: null,
  preview: null,
  problem: null,
  notice: null,
  waiting: null,
  conflict: null,
  ask: null,
  dialog: null,
  fit: 0,
  letters: lettersKept(),
  look: null,
  show: (view) =>
    set((state) => ({
      view,
      drawing: wayOf(view).drawing ? view : state.drawing,
      draft: view === "plan" ? state.draft : null,
      picking: view === "plan" ? state.picking : null,
    })),
  select: (ids, piece = null) =>
    set((state) => ({
      selected: ids,
      piece,
      point: null,
      // A piece of the run picked, its corners stay picked.
      corners: ids.length === 1 && ids[0] === state.selected[0] ? state.corners : [],
      places: [],
      parts: [],
      outline: null,
      stretches: null,
      chainage: null,
      problem: null,
      // What was pointed at on another line says nothing about this one.
      pointed: ids[0] === state.selected[0] ? state.pointed : null,
      // A section is looked at on its desk; anything else in the drawing or the list that is open.
      view:
        ids[0] && ["sections", "drafts"].includes(state.groupOf(ids[0]) ?? "")
          ? "section"
          : wayOf(state.view).follows
            ? state.drawing
            : state.view,
    })),
  selectAlike: (ids) =>
    set((state) => {
      const first = state.groupOf(ids[0] ?? "");
      return {
        selected: ids.filter((id) => state.groupOf(id) === first),
        piece: null,
        point: null,
        corners: [],
        stretches: null,
        chainage: null,
      };
    }),
  toggle: (id) =>
    set((state) => ({
      selected: state.selected.includes(id)
        ? state.selected.filter((other) => other !== id)
        : [...state.selected.filter((other) => state.groupOf(other) === state.groupOf(id)), id],
      piece: null,
      point: null,
      corners: [],
    })),
  pickCorner: (vertex, more) =>
    set((state) => {
      const others = state.corners.filter((other) => other !== vertex);
      const on = others.length < state.corners.length;
      return { corners: more ? (on ? others : [...state.corners, vertex]) : on && !others.length ? [] : [vertex] };
    }),
  pickPoint: (point) => set({ point }),
  pickPlace: (typical, place, more = false) =>
    set((state) => {
      const known = state.selected.length === 1 && state.selected[0] === typical ? state.places : [];
      const on = known.includes(place);
      const places = more ? (on ? known.filter((one) => one !== place) : [...known, place]) : [place];
      return { selected: [typical], places, piece: null, point: null, corners: [], stretches: null, chainage: null };
    }),
  pointAt: (pointed) =>
    set((state) =>
      state.pointed?.line === pointed?.line && state.pointed?.chainage === pointed?.chainage ? state : { pointed },
    ),
  set: (part) => set(part),
}));

/** Some of what the window knows: a part of it is drawn anew when one of these changes, and not when the pointer moves. */
export function usePart<K extends keyof WindowState>(...names: K[]): Pick<WindowState, K> {
  return useWindow(
    useShallow((state) => Object.fromEntries(names.map((name) => [name, state[name]])) as Pick<WindowState, K>),
  );
}

function lettersKept(): boolean {
  return localStorage.getItem(LETTERS) !== "off";
}

/** Turn single letters on or off as keys, in this browser from now on. */
export function setLetters(on: boolean) {
  localStorage.setItem(LETTERS, on ? "on" : "off");
  useWindow.setState({ letters: on });
}
