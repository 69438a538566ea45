/** Reading a file and joining its edges: long work that can be watched and stopped. */
import { answer, api, type DrawingRead, type Joining, type LinesFound, type Options } from "../api/client";

export type ReadOptions = Partial<Options>;

/** What was last said of files of a kind that do not say their unit: it is not asked twice. */
const SAID = "slow-ribbon.unit-of.";

export function saidOf(kind: string): ReadOptions | null {
  const kept = localStorage.getItem(SAID + kind);
  if (kept === "degrees") return { degrees: true };
  return kept ? { unit: kept as ReadOptions["unit"] } : null;
}

export function rememberOf(kind: string, { unit, degrees }: ReadOptions) {
  const said = degrees ? "degrees" : unit;
  if (said) localStorage.setItem(SAID + kind, said);
  else localStorage.removeItem(SAID + kind);
}

/** Read a file that is sent. */
export function sendFile(file: File, options: ReadOptions, task: string, signal: AbortSignal): Promise<DrawingRead> {
  const form = new FormData();
  form.append("file", file);
  return answer<DrawingRead>(
    api.POST("/api/imports", {
      params: { query: { task, options: JSON.stringify(options) } },
      body: form as never,
      bodySerializer: (body) => body as never,
      signal,
    }),
  );
}

/** Read an original again, in another way. */
export function readAgain(content: string, options: ReadOptions, task: string): Promise<DrawingRead> {
  const params = { path: { content } };
  return answer<DrawingRead>(
    api.POST("/api/imports/{content}/read", { params, body: { options: options as Options, task } }),
  );
}

export function findLines(
  content: string,
  options: ReadOptions,
  joining: Joining,
  task: string,
  signal: AbortSignal,
): Promise<LinesFound> {
  const params = { path: { content } };
  const body = { options: options as Options, joining, task };
  return answer<LinesFound>(api.POST("/api/imports/{content}/lines", { params, body, signal }));
}
