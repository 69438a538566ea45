/** A job with its cutting list. */
import type { CutRowFigures, JobShown } from "../api/client";
import { runById, typicalOf } from "../window/things";

export type Rows = readonly CutRowFigures[];
export const NONE: Rows = [];

/** A job with the rows of its cutting list, by run, and of all that stands in several places by typical. */
export type Listed = JobShown & { cutting: Record<string, Rows> };

const byRun = new WeakMap<Rows, Map<string, CutRowFigures[]>>();

/** The rows of the cutting list of a run, wherever it stands. */
export function rowsOf(listed: Listed, run: string): Rows {
  const typical = listed.job.typicals?.length ? typicalOf(listed, runById(listed, run)?.line) : undefined;
  if (!typical) return listed.cutting[run] ?? NONE;
  const all = listed.cutting[typical.id] ?? NONE;
  let sorted = byRun.get(all);
  if (!sorted) {
    sorted = new Map();
    for (const row of all) sorted.set(row.run, [...(sorted.get(row.run) ?? []), row]);
    byRun.set(all, sorted);
  }
  return sorted.get(run) ?? NONE;
}
