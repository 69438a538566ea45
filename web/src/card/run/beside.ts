/** Runs and rows that others can go by: the nearest first, for a list to choose from. */
import type { JobShown, Line, Row, Run } from "../../api/client";
import { lineById, linePoints } from "../../window/things";

/** No longer list is of use to choose from. */
const MOST = 60;

function apart(one: Line, other: Line): number {
  let least = Number.POSITIVE_INFINITY;
  for (const [x, y, z] of linePoints(one))
    for (const [u, v, w] of linePoints(other)) least = Math.min(least, Math.hypot(x - u, y - v, z - w));
  return least;
}

/** Things beside some runs, other than these, as ways to choose from; one that is chosen already is among them. */
export function beside<Thing extends Run | Row>(
  shown: JobShown,
  runs: readonly Run[],
  things: readonly Thing[],
  chosen: string | null,
): [string, string][] {
  const mine = lineById(shown, runs[0]?.line);
  const others = things.filter((one) => !runs.some((run) => run.id === one.id));
  const far = new Map(
    others.map((one) => {
      const line = lineById(shown, one.line);
      return [one.id, mine && line ? apart(mine, line) : Number.POSITIVE_INFINITY] as const;
    }),
  );
  const near = [...others].sort((a, b) => (far.get(a.id) ?? 0) - (far.get(b.id) ?? 0));
  const some = near.filter((one, at) => at < MOST || one.id === chosen);
  return some.map((one) => [one.id, one.name]);
}
