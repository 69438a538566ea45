/** Which group of the job a thing belongs to; ids say nothing of it. */
import type { JobShown } from "../api/client";
import { GROUPS, type Group } from "../api/groups";

type Job = JobShown["job"];

/** The group that a thing of a job is in; null where the job has no such thing. */
export function groupIn(job: Job, id: string): Group | null {
  return GROUPS.find((group) => byId<{ id: string }>(job[group], id)) ?? null;
}

const indices = new WeakMap<readonly object[], Map<string, { id: string }>>();

/** One of a list that does not change, found at once however long it is. */
export function byId<T extends { id: string }>(list: readonly T[] | undefined, id: string | undefined): T | undefined {
  if (!list || id === undefined) return undefined;
  let index = indices.get(list);
  if (!index) {
    index = new Map(list.map((one) => [one.id, one]));
    indices.set(list, index);
  }
  return index.get(id) as T | undefined;
}
