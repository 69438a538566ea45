/** The open job: what the service shows of it, and every way of changing it. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useMemo, useRef } from "react";
import {
  answer,
  api,
  type Edit,
  type JobShown,
  type Problem,
  problemOf,
  type Told,
  writeProblemsWith,
} from "../api/client";
import { writeTold } from "../ui/figures";
import { useWindow } from "./store";

export const JobId = createContext("");

/** The job as it is seen on an upright plane, for the sheet that looks at it so. */
export const Projected = createContext<JobShown | null>(null);

export function useJobQuery(id: string) {
  return useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      const shown = await answer<JobShown>(api.GET("/api/jobs/{id}", { params: { path: { id } } }));
      writeProblemsWith((told) => writeTold(told, shown.job.units ?? {}));
      return shown;
    },
    refetchOnWindowFocus: false,
    staleTime: Number.POSITIVE_INFINITY,
    retry: 1,
  });
}

/** The job as it should be drawn now: while something is dragged, the service's preview of it. */
export function useShown(): JobShown {
  const projected = useContext(Projected);
  const id = useContext(JobId);
  const preview = useWindow((state) => state.preview);
  const { data } = useJobQuery(id);
  if (!data) throw new Error("the job is drawn before it has come");
  return projected ?? preview ?? data;
}

/** The job as it should be drawn now; nothing where there is none, in the list of jobs say. */
export function useMaybeShown(): JobShown | undefined {
  const id = useContext(JobId);
  const client = useQueryClient();
  return client.getQueryData<JobShown>(["job", id]);
}

export function useUnits() {
  const units = useShown().job.units;
  return useMemo(() => units ?? { system: "mm" as const, fineness: 1 }, [units]);
}

/** How sentences of the service are written: with their lengths in the job's units. */
export function useTold(): (told: Told) => string {
  const units = useUnits();
  return useCallback((told: Told) => writeTold(told, units), [units]);
}

// Edits follow one another: each is made against the revision the one before gave.
let queue: Promise<unknown> = Promise.resolve();
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const next = queue.then(work, work);
  queue = next.catch(() => undefined);
  return next;
}

export interface Changes {
  /** Make edits as one; resolves to null, or to the problem that kept them from being made. */
  edit: (edits: Edit[], confirmed?: boolean) => Promise<Problem | null>;
  /** The same, telling the ids of what is new. */
  make: (edits: Edit[]) => Promise<{ problem: Problem | null; made: string[] }>;
  step: (way: "undo" | "redo") => Promise<void>;
  /** Ask for a look at edits without making them; only the newest asked for is shown. */
  preview: (edits: Edit[] | null) => void;
  take: (shown: JobShown) => void;
}

export function useChanges(): Changes {
  const id = useContext(JobId);
  const client = useQueryClient();
  const wanted = useRef<Edit[] | null>(null);
  const asking = useRef(false);
  // Looks asked for before an edit say nothing of what is dragged after it.
  const series = useRef(0);

  const take = useCallback(
    (shown: JobShown) => {
      client.setQueryData(["job", id], shown);
      writeProblemsWith((told) => writeTold(told, shown.job.units ?? {}));
      const known = new Set(
        [...shown.job.lines, ...shown.job.sections, ...shown.job.runs, ...shown.job.rows, ...shown.job.pictures].map(
          (thing) => thing.id,
        ),
      );
      const state = useWindow.getState();
      const selected = state.selected.filter((one) => known.has(one));
      if (selected.length !== state.selected.length) state.set({ selected, piece: null, point: null });
      const notices = (shown.notices ?? []).map((told) => writeTold(told, shown.job.units ?? {}));
      state.set({ preview: null, problem: null, ...(notices.length ? { notice: notices.join(" ") } : {}) });
    },
    [client, id],
  );

  const revision = useCallback(() => client.getQueryData<JobShown>(["job", id])?.revision ?? 0, [client, id]);

  const send = useCallback(
    (edits: Edit[], confirmed: boolean): Promise<{ problem: Problem | null; made: string[] }> =>
      inTurn(async () => {
        wanted.current = null;
        series.current++;
        try {
          const shown = await answer<JobShown>(
            api.POST("/api/jobs/{id}/edits", {
              params: { path: { id } },
              body: { base: revision(), edits, confirmed },
            }),
          );
          take(shown);
          return { problem: null, made: shown.made ?? [] };
        } catch (error) {
          const problem = problemOf(error);
          const { set } = useWindow.getState();
          set({ preview: null });
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
    [id, revision, take],
  );
  const edit = useCallback(async (edits: Edit[], confirmed = false) => (await send(edits, confirmed)).problem, [send]);
  const make = useCallback((edits: Edit[]) => send(edits, false), [send]);

  const step = useCallback(
    (way: "undo" | "redo") =>
      inTurn(async () => {
        const data = client.getQueryData<JobShown>(["job", id]);
        if (!data || !(way === "undo" ? data.undo : data.redo)) return;
        const path = way === "undo" ? ("/api/jobs/{id}/undo" as const) : ("/api/jobs/{id}/redo" as const);
        try {
          take(await answer<JobShown>(api.POST(path, { params: { path: { id } }, body: { base: revision() } })));
        } catch (error) {
          const problem = problemOf(error);
          const { set } = useWindow.getState();
          if (problem.code === "conflict")
            set({ conflict: { edits: [], changes: problem.changes, current: problem.current ?? 0 } });
          else set({ problem });
        }
      }),
    [client, id, revision, take],
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
          const [asked, now] = [wanted.current, series.current];
          try {
            const shown = await answer<JobShown>(
              api.POST("/api/jobs/{id}/preview", {
                params: { path: { id } },
                body: { base: revision(), edits: asked },
              }),
            );
            if (wanted.current && now === series.current) useWindow.getState().set({ preview: shown, problem: null });
          } catch (error) {
            // A place that cannot be is told, and the last good picture stays.
            if (wanted.current && now === series.current) useWindow.getState().set({ problem: problemOf(error) });
          }
          if (wanted.current === asked) break;
        }
        asking.current = false;
      };
      void ask();
    },
    [id, revision],
  );

  return useMemo(() => ({ edit, make, step, preview, take }), [edit, make, step, preview, take]);
}
