/** What an edit leads to, shown before the service has said that it is made: a name, which needs no working out, or what it has worked out already. */
import type { Edit, JobChange, JobShown } from "../api/client";
import { changed } from "../api/merging";
import { byId, groupIn } from "./groups";

/** Where what edits would change of a revision is kept, once the service has been asked. */
export const rehearsalKey = (job: string, revision: number, edits: readonly Edit[]) =>
  ["rehearsal", job, revision, edits] as const;

/** The job with what the service says edits would change of it; what can be undone is as it was. */
export function lookedAt(shown: JobShown, change: JobChange): JobShown {
  return { ...changed(shown, change), undo: shown.undo, redo: shown.redo };
}

/** The longest name a thing can have. */
const LONGEST = 120;

/** The job with the names that edits give to things; null where they do anything else, which only the service can tell. */
export function renamed(shown: JobShown, edits: readonly Edit[]): JobShown | null {
  let { job } = shown;
  for (const edit of edits) {
    const given = naming(edit);
    const group = given && groupIn(job, given.id);
    if (!given || !group) return null;
    const things = (job[group] ?? []) as { id: string; name: string }[];
    const thing = byId(things, given.id);
    job = { ...job, [group]: things.map((one) => (one === thing ? { ...one, name: given.name } : one)) };
  }
  return job === shown.job ? null : { ...shown, job };
}

/** What an edit calls a thing, where that is all it does. */
function naming({ kind: _, ...edit }: Edit): { id: string; name: string } | null {
  const { changes, ...of } = edit as { changes?: Record<string, unknown> | null };
  const [id, ...more] = Object.values(of);
  const fields = Object.entries(changes ?? {});
  const [field, value] = fields[0] ?? [];
  if (typeof id !== "string" || more.length || fields.length !== 1 || field !== "name" || typeof value !== "string")
    return null;
  const name = value.trim();
  return name && name.length <= LONGEST ? { id, name } : null;
}
