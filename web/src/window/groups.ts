/** Which group of the job a thing belongs to; ids say nothing of it. */
import type { JobShown } from "../api/client";

type Job = JobShown["job"];
export type Group = "lines" | "sections" | "runs" | "rows" | "pictures";

const groups: Group[] = ["lines", "sections", "runs", "rows", "pictures"];
const known = new WeakMap<Job, Map<string, Group>>();

/** The group that a thing of a job is in; null where the job has no such thing. */
export function groupIn(job: Job, id: string): Group | null {
  let found = known.get(job);
  if (!found) {
    found = new Map(groups.flatMap((group) => (job[group] ?? []).map((thing) => [thing.id, group] as const)));
    known.set(job, found);
  }
  return found.get(id) ?? null;
}
