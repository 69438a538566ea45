/** Where a line being drawn goes: its steps resolved by the service as they come. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useContext } from "react";
import { answer, api, type Point3, type WalkShown } from "../api/client";
import { JobId, useShown } from "../window/job";
import { type DraftLine, useWindow } from "../window/store";

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
  // What goes wrong is reported by the one who asked; the next may go on.
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
