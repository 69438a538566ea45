/** The open job: what the service shows of it, and every way of changing it. */
import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useMemo, useRef } from "react";
import {
  answer,
  api,
  type Edit,
  Failed,
  type JobChange,
  type JobShown,
  newName,
  type Problem,
  problemOf,
  type Sentence,
  writeProblemsWith,
} from "../api/client";
import { changed, opened } from "../api/merging";
import { writeSentence } from "../ui/figures";
import { groupIn } from "./groups";
import { lookedAt, rehearsalKey, renamed } from "./optimistic";
import { useWindow } from "./store";

export const JobId = createContext("");

/** The job as it should be drawn now; a sheet that looks at it from the side has it so for its own parts. */
export const Shown = createContext<JobShown | null>(null);

export function useJobQuery(id: string) {
  return useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      const shown = opened(await answer(api.GET("/api/jobs/{id}", { params: { path: { id } } })));
      writeProblemsWith((sentence) => writeSentence(sentence, shown.job.units ?? {}));
      return shown;
    },
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
    staleTime: Number.POSITIVE_INFINITY,
    // What did not change is the same already, by how answers are put in; comparing it all again takes time.
    structuralSharing: false,
    retry: 1,
  });
}

/** The job as it should be drawn now: while something is dragged, the service's preview of it; while a name is on its way, with it. */
export function useShown(): JobShown {
  const shown = useContext(Shown);
  if (!shown) throw new Error("the job is drawn before it has come");
  return shown;
}

/** The job as it should be drawn now; nothing where there is none, in the list of jobs say. */
export function useMaybeShown(): JobShown | null {
  return useContext(Shown);
}

export function useUnits() {
  const units = useShown().job.units;
  return useMemo(() => units ?? { system: "mm" as const, fineness: 1 }, [units]);
}

/** How sentences of the service are written: with their lengths in the job's units. */
export function useSentence(): (sentence: Sentence) => string {
  const units = useUnits();
  return useCallback((sentence: Sentence) => writeSentence(sentence, units), [units]);
}

// Edits follow one another: each is made against the revision the one before gave.
let queue: Promise<unknown> = Promise.resolve();
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const next = queue.then(work, work);
  queue = next.catch(() => undefined);
  return next;
}

/** Have the service work out edits that are about to be made, so that they are shown at once when they are. */
export function useRehearsal(edits: Edit[] | null): JobChange | undefined {
  const id = useContext(JobId);
  const { revision } = useShown();
  const { data } = useQuery({
    queryKey: rehearsalKey(id, revision, edits ?? []),
    queryFn: ({ signal }) =>
      answer<JobChange>(
        api.POST("/api/jobs/{id}/preview", {
          params: { path: { id } },
          body: { base: revision, edits: edits ?? [] },
          signal,
        }),
      ),
    enabled: edits !== null,
    // What is wrong with them is reported when they are made.
    retry: 0,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 10_000,
    structuralSharing: false,
  });
  return data;
}

/** Put an answer about a job into what the window holds of it, then `then`; an answer about another revision is made up for. */
export async function take(client: QueryClient, id: string, change: JobChange, then?: () => void): Promise<void> {
  const shown = client.getQueryData<JobShown>(["job", id]);
  if (!shown) return;
  if (change.since !== shown.revision) {
    if (change.revision !== shown.revision) await catchUp(client, id);
    then?.();
    return;
  }
  const after = changed(shown, change);
  client.setQueryData(["job", id], after);
  writeProblemsWith((sentence) => writeSentence(sentence, after.job.units ?? {}));
  const state = useWindow.getState();
  const selected = state.selected.filter((one) => groupIn(after.job, one));
  if (selected.length !== state.selected.length) state.set({ selected, piece: null, point: null });
  const notices = change.notices.map((sentence) => writeSentence(sentence as Sentence, after.job.units ?? {}));
  state.set({ preview: null, problem: null, ...(notices.length ? { notice: notices.join(" ") } : {}) });
  then?.();
}

/** Fetch what changed since the revision the window holds. */
export async function catchUp(client: QueryClient, id: string): Promise<JobChange | null> {
  const shown = client.getQueryData<JobShown>(["job", id]);
  if (!shown) return null;
  const change = await answer<JobChange>(
    api.GET("/api/jobs/{id}/changes", { params: { path: { id }, query: { since: shown.revision } } }),
  );
  await take(client, id, change);
  return change;
}

/** Send edits until there is an answer: while the service or its database cannot, they wait here and nothing is lost. */
async function sent(client: QueryClient, id: string, edits: Edit[], confirmed: boolean): Promise<JobChange> {
  const request = newName();
  const { set } = useWindow.getState();
  for (let tries = 1; ; tries++) {
    const base = client.getQueryData<JobShown>(["job", id])?.revision ?? 0;
    try {
      const change = await answer<JobChange>(
        api.POST("/api/jobs/{id}/edits", { params: { path: { id } }, body: { base, edits, confirmed, request } }),
      );
      set({ waiting: null });
      return change;
    } catch (error) {
      const problem = problemOf(error);
      if (problem.again === null) {
        set({ waiting: null });
        throw error;
      }
      // The first try again comes soon: most of what fails so is a moment's.
      const seconds =
        tries === 1 ? Math.min(1, problem.again) : Math.min(15, problem.again * 1.5 ** Math.min(tries, 6));
      const discarded = await new Promise<boolean>((done) => {
        const timer = setTimeout(() => done(false), seconds * 1000);
        const settle = (gone: boolean) => {
          clearTimeout(timer);
          done(gone);
        };
        // A hitch of a second is not worth a word.
        if (tries > 1) set({ waiting: { problem, again: () => settle(false), discard: () => settle(true) } });
      });
      if (discarded) {
        set({ waiting: null });
        throw new Failed({
          ...problem,
          again: null,
          detail: "Your change was discarded. What was saved before is safe.",
        });
      }
    }
  }
}

export interface Changes {
  /** Make edits as one; resolves to null, or to the problem that kept them from being made. */
  edit: (edits: Edit[], confirmed?: boolean) => Promise<Problem | null>;
  /**
   * The same, telling the ids of what is new. What is to follow when it is there, selecting it say, is given as `then`:
   * it is shown together with it, not after it.
   */
  make: (edits: Edit[], then?: (made: string[]) => void) => Promise<{ problem: Problem | null; made: string[] }>;
  step: (way: "undo" | "redo") => Promise<void>;
  /** Ask for a look at edits without making them; only the newest asked for is shown. */
  preview: (edits: Edit[] | null) => void;
  take: (change: JobChange) => Promise<void>;
  catchUp: () => Promise<unknown>;
}

export function useChanges(): Changes {
  const id = useContext(JobId);
  const client = useQueryClient();
  const wanted = useRef<Edit[] | null>(null);
  const asking = useRef(false);
  // Looks asked for before an edit say nothing of what is dragged after it.
  const series = useRef(0);

  const held = useCallback(() => client.getQueryData<JobShown>(["job", id]), [client, id]);
  const revision = useCallback(() => held()?.revision ?? 0, [held]);

  const send = useCallback(
    (
      edits: Edit[],
      confirmed: boolean,
      then?: (made: string[]) => void,
    ): Promise<{ problem: Problem | null; made: string[] }> =>
      inTurn(async () => {
        wanted.current = null;
        series.current++;
        const now = held();
        const known = now && client.getQueryData<JobChange>(rehearsalKey(id, now.revision, edits));
        const ahead = now && (known ? lookedAt(now, known) : renamed(now, edits));
        if (ahead) {
          useWindow.getState().set({ preview: ahead });
          if (known) then?.(known.made);
        }
        try {
          const change = await sent(client, id, edits, confirmed);
          const follows = !known || known.made.join() !== change.made.join();
          await take(client, id, change, follows ? () => then?.(change.made) : undefined);
          return { problem: null, made: change.made };
        } catch (error) {
          const problem = problemOf(error);
          const { selected, set } = useWindow.getState();
          const there = held();
          // What was shown as made, and is not, is taken back.
          set({ preview: null, selected: selected.filter((one) => there && groupIn(there.job, one)) });
          if (problem.code === "conflict") {
            set({ conflict: { edits, changes: problem.changes, current: problem.current ?? 0 } });
          } else if (problem.code === "confirm-many") {
            set({ ask: { what: problem.detail, yes: "Yes, set them out", act: () => void send(edits, true) } });
          } else {
            set({ problem });
          }
          return { problem, made: [] };
        }
      }),
    [client, held, id],
  );
  const edit = useCallback(async (edits: Edit[], confirmed = false) => (await send(edits, confirmed)).problem, [send]);
  const make = useCallback((edits: Edit[], then?: (made: string[]) => void) => send(edits, false, then), [send]);

  const step = useCallback(
    (way: "undo" | "redo") =>
      inTurn(async () => {
        const data = held();
        if (!data || !(way === "undo" ? data.undo : data.redo)) return;
        const path = way === "undo" ? ("/api/jobs/{id}/undo" as const) : ("/api/jobs/{id}/redo" as const);
        try {
          await take(
            client,
            id,
            await answer<JobChange>(api.POST(path, { params: { path: { id } }, body: { base: revision() } })),
          );
        } catch (error) {
          const problem = problemOf(error);
          const { set } = useWindow.getState();
          if (problem.code === "conflict")
            set({ conflict: { edits: [], changes: problem.changes, current: problem.current ?? 0 } });
          else set({ problem });
        }
      }),
    [client, held, id, revision],
  );

  const preview = useCallback(
    (edits: Edit[] | null) => {
      wanted.current = edits;
      if (!edits) {
        useWindow.getState().set({ preview: null });
        return;
      }
      if (asking.current) return;
      asking.current = true;
      const ask = async () => {
        while (wanted.current) {
          // What is on its way is part of what a look is taken at.
          await queue.catch(() => undefined);
          const [asked, now] = [wanted.current, series.current];
          if (!asked) break;
          try {
            const change = await answer<JobChange>(
              api.POST("/api/jobs/{id}/preview", {
                params: { path: { id } },
                body: { base: revision(), edits: asked },
              }),
            );
            const shown = held();
            if (wanted.current && now === series.current && shown?.revision === change.since)
              useWindow.getState().set({ preview: lookedAt(shown, change), problem: null });
          } catch (error) {
            // A place that cannot be is reported, and the last good picture stays.
            if (wanted.current && now === series.current) useWindow.getState().set({ problem: problemOf(error) });
          }
          if (wanted.current === asked) break;
        }
        asking.current = false;
      };
      void ask();
    },
    [held, id, revision],
  );

  return useMemo(
    () => ({
      edit,
      make,
      step,
      preview,
      take: (change) => take(client, id, change),
      catchUp: () => inTurn(() => catchUp(client, id)),
    }),
    [client, id, edit, make, step, preview],
  );
}
