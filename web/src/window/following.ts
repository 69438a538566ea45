/** Keeping what the window holds of a job true: its figures as they come, and what other windows change. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { Failed, type FiguresPart, type JobShown, problemOf, windowName } from "../api/client";
import { filled } from "../api/merging";
import { catchUp, inTurn } from "./job";
import { useWindow } from "./store";

/** Fetch the figures of a job just opened, part by part. */
export function useFigures(id: string, coming: boolean) {
  const client = useQueryClient();
  useEffect(() => {
    if (!coming) return;
    const leaving = new AbortController();
    const held = () => client.getQueryData<JobShown>(["job", id]);
    const read = async () => {
      const revision = held()?.revision ?? 0;
      const got = await fetch(`/api/jobs/${id}/figures?revision=${revision}`, { signal: leaving.signal });
      if (!got.ok || !got.body)
        throw new Error(`The figures of the job did not come: the service answered ${got.status}.`);
      await inLines(got.body, (line) => {
        const shown = held();
        if (shown) client.setQueryData(["job", id], filled(shown, JSON.parse(line) as FiguresPart));
      });
      if (held()?.coming && held()?.revision === revision) throw new Error("The figures of the job broke off.");
    };
    const keepOn = async () => {
      for (let tries = 1; !leaving.signal.aborted && held()?.coming; tries++) {
        try {
          await read();
        } catch (error) {
          if (leaving.signal.aborted) return;
          if (tries > 2) useWindow.getState().set({ problem: { ...problemOf(error), code: "figures" } });
          await new Promise((done) => setTimeout(done, Math.min(10_000, 500 * 2 ** tries)));
        }
      }
      if (useWindow.getState().problem?.code === "figures") useWindow.getState().set({ problem: null });
    };
    void keepOn();
    return () => leaving.abort();
  }, [client, id, coming]);
}

async function inLines(body: ReadableStream<Uint8Array>, act: (line: string) => void) {
  const reader = body.pipeThrough(new TextDecoderStream() as TransformStream<Uint8Array, string>).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    const lines = (rest + (value ?? "")).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) if (line) act(line);
    if (done) {
      if (rest) act(rest);
      return;
    }
  }
}

/**
 * Listen to what happens to a job, or to all, while the window is seen. One that was hidden or
 * asleep, or lost its connection, is notified where things stand as soon as it listens again.
 */
export function useEvents(path: string, sentence: (event: { revision: number; by: string | null }) => void) {
  useEffect(() => {
    let source: EventSource | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    const leave = () => {
      clearTimeout(again);
      source?.close();
      source = null;
    };
    const listen = () => {
      // A browser has few connections to spare for windows that nobody sees.
      if (document.visibilityState === "hidden") leave();
      else if (!source) {
        source = new EventSource(path);
        source.onmessage = (message) => sentence(JSON.parse(message.data));
        source.onerror = () => {
          // A line that broke is taken up again by the browser, one that was refused (the database is away) is not.
          if (source?.readyState !== EventSource.CLOSED) return;
          leave();
          again = setTimeout(listen, 3000);
        };
      }
    };
    listen();
    document.addEventListener("visibilitychange", listen);
    return () => {
      document.removeEventListener("visibilitychange", listen);
      leave();
    };
  }, [path, sentence]);
}

/** Let the window follow what others do to the job. */
export function useFollow(id: string) {
  const client = useQueryClient();
  useEvents(`/api/jobs/${id}/events`, useSentence(id, client));
}

function useSentence(id: string, client: ReturnType<typeof useQueryClient>) {
  return useCallback(
    ({ revision, by }: { revision: number; by: string | null }) => {
      if (by === windowName) return;
      const follow = async () => {
        const shown = client.getQueryData<JobShown>(["job", id]);
        if (!shown || (shown.revision === revision && revision > 0)) return;
        try {
          const change = await catchUp(client, id);
          if (change && change.revision !== change.since && by !== null)
            useWindow.getState().set({ notice: `In another window: ${change.undo ?? "everything undone"}.` });
        } catch (error) {
          if (!(error instanceof Failed)) throw error;
          // Later, and out of turn, so that edits of this window need not wait for it.
          if (error.problem.again !== null) setTimeout(() => void inTurn(follow), 3000);
        }
      };
      // In turn: what is on its way to the service may be this very revision.
      void inTurn(follow);
    },
    [client, id],
  );
}
