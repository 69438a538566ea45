/** A line being drawn: the steps of a walk, point after point. */
import type { Point3 } from "../api/client";
import type { DraftLine, Mode } from "../window/store";

export const modes: [Mode, string][] = [
  ["straight", "straight"],
  ["arc", "arc in line"],
  ["bulge", "arc by a point"],
  ["curve", "spline through points"],
  ["cord", "catenary"],
];

export const emptyDraft: DraftLine = {
  start: null,
  steps: [],
  mode: "straight",
  height: 0,
  curve: [],
  via: null,
  sag: "400",
};

const figure = (mm: number) => `${Number(mm.toFixed(6))} mm`;
export const spot = (point: readonly number[]) => `(${point.map((value) => figure(value)).join("; ")})`;

function curveStep(points: DraftLine["curve"]): string {
  return `curve ${points.map((one) => `${one.sharp ? "sharp " : ""}${spot(one.at)}`).join(" ")}`;
}

/** The draft with a point clicked or typed, in the way it is drawn now. */
export function withPoint(draft: DraftLine, point: Point3): DraftLine {
  if (!draft.start) return { ...draft, start: point, height: point[2] };
  switch (draft.mode) {
    case "straight":
      return { ...draft, steps: [...draft.steps, `to ${spot(point)}`], curve: [] };
    case "arc":
      return { ...draft, steps: [...draft.steps, `arc to ${spot(point)}`], curve: [] };
    case "bulge":
      return draft.via
        ? {
            ...draft,
            steps: [...draft.steps, `arc to ${spot(point)} through ${spot(draft.via)}`],
            via: null,
            curve: [],
          }
        : { ...draft, via: point };
    case "cord":
      return { ...draft, steps: [...draft.steps, `cord to ${spot(point)} sag ${draft.sag || "400"}`], curve: [] };
    case "curve": {
      const curve = [...draft.curve, { at: point, sharp: false }];
      const steps = draft.curve.length ? draft.steps.slice(0, -1) : draft.steps;
      return { ...draft, steps: [...steps, curveStep(curve)], curve };
    }
  }
}

/** The draft with the last point of its spline through points made sharp, or smooth again. */
export function withSharp(draft: DraftLine): DraftLine {
  if (!draft.curve.length) return draft;
  const curve = draft.curve.map((one, i) => (i === draft.curve.length - 1 ? { ...one, sharp: !one.sharp } : one));
  return { ...draft, curve, steps: [...draft.steps.slice(0, -1), curveStep(curve)] };
}

/** The draft one step back: the last step, the last point of a curve, or the point on an arc. */
export function stepBack(draft: DraftLine): DraftLine {
  if (draft.via) return { ...draft, via: null };
  if (draft.curve.length > 1) {
    const curve = draft.curve.slice(0, -1);
    return { ...draft, curve, steps: [...draft.steps.slice(0, -1), curveStep(curve)] };
  }
  if (draft.steps.length) return { ...draft, steps: draft.steps.slice(0, -1), curve: [] };
  return { ...draft, start: null };
}
