/** What an edit plainly leads to, shown before the service has said so: a name needs no working out. */
import type { Edit, JobShown } from "../api/client";
import { byId, groupIn } from "./groups";

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
