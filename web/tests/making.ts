/** Small jobs for the tests of the window's own logic. */
import type { Line, Point3 } from "../src/api/client";
import { type JobShown, opened } from "../src/api/merging";

export function lineOf(id: string, points: Point3[], more: Partial<Line> = {}): Line {
  const ends = more.closed ? [...points.slice(1), points[0] as Point3] : points.slice(1);
  const legs = ends.map((to) => ({ kind: "straight", to }));
  return { id, name: id, start: points[0], legs, closed: false, openings: [], marks: [], ...more } as Line;
}

export function jobOf(parts: Record<string, unknown>): JobShown {
  const job = { name: "Job", lines: [], sections: [], runs: [], rows: [], pictures: [], ...parts };
  return opened({ id: "job", revision: 1, undo: null, redo: null, job } as never);
}

/** Numbers from 0 to 1 that are the same in every run of the tests (mulberry32). */
export function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
