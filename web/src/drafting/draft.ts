/** A line being drawn: the steps of a walk, resolved by the service as they come. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useContext } from "react";
import { answer, api, type Point3, type WalkShown } from "../api/client";
import { JobId, useShown } from "../window/job";
import { useWindow } from "../window/store";

export type Mode = "straight" | "arc" | "bulge" | "curve" | "cord";

export const modes: [Mode, string][] = [
  ["straight", "straight"],
  ["arc", "arc in line"],
  ["bulge", "arc by a point"],
  ["curve", "smooth curve"],
  ["cord", "hanging cord"],
];

export interface DraftLine {
  start: Point3 | null;
  steps: string[];
  mode: Mode;
  /** Height of the points that are clicked, mm. */
  height: number;
  /** Points of the smooth curve that is the last step. */
  curve: { at: Point3; sharp: boolean }[];
  /** The point on an arc, clicked before its end. */
  via: Point3 | null;
  sag: string;
}

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

/** The draft with the last point of its smooth curve made sharp, or smooth again. */
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

function walkQuery(job: string, revision: number, text: string, start: Point3 | null) {
  return {
    queryKey: ["walk", job, revision, text, start],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      answer<WalkShown>(
        api.POST("/api/jobs/{id}/walk", {
          params: { path: { id: job } },
          body: { text, start: start ?? [0, 0, 0] },
          signal,
        }),
      ),
  };
}

const headingOf = (walk: WalkShown) => ((90 - walk.heading) * Math.PI) / 180;

/** Asks where a draft goes, for what is done before its last leg has been drawn; null where it has no leg yet. */
export function useWalkNow() {
  const job = useContext(JobId);
  const { revision } = useShown();
  const client = useQueryClient();
  return async (draft: DraftLine): Promise<(WalkShown & { turned: number }) | null> => {
    if (!draft.start || !draft.steps.length) return null;
    const walk = await client.fetchQuery(walkQuery(job, revision, draft.steps.join(", "), draft.start));
    return { ...walk, turned: headingOf(walk) };
  };
}

// Legs typed and clicked are taken one after another: each goes on from where the one before ends.
let turn: Promise<unknown> = Promise.resolve();

/** Do something to the draft once all that was typed and clicked before has been taken. */
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const done = turn.then(work);
  // What goes wrong is told by the one who asked; the next may go on.
  turn = done.catch(() => null);
  return done;
}

/** Where a walk of these steps goes, as the service works it out. */
export function useWalk(text: string, start: Point3 | null) {
  const job = useContext(JobId);
  const { revision } = useShown();
  return useQuery({
    ...walkQuery(job, revision, text, start),
    enabled: start !== null && text !== "",
    placeholderData: keepPreviousData,
    retry: 0,
    staleTime: 60_000,
  });
}

/** The draft as it stands: where it goes, its last point, and its heading there in radians from east, anticlockwise. */
export function useDraftWalk() {
  const draft = useWindow((state) => state.draft);
  const text = draft?.steps.join(", ") ?? "";
  const { data, error } = useWalk(text, draft?.start ?? null);
  const walk = draft?.steps.length ? data : undefined;
  const end = (walk?.end as Point3 | undefined) ?? draft?.start ?? null;
  const heading = walk ? headingOf(walk) : null;
  return { draft, walk, end, heading, error: draft?.steps.length ? error : null };
}
