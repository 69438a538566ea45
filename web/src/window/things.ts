/** Looking things up in a job that is shown. */
import type { CheckFigures, JobShown, Line, Point3, Row, RowFigures, Run, RunFigures, Section } from "../api/client";

export function lineById(shown: JobShown, id: string | undefined): Line | undefined {
  return shown.job.lines?.find((line) => line.id === id);
}
export function sectionById(shown: JobShown, id: string | undefined): Section | undefined {
  return shown.job.sections?.find((section) => section.id === id);
}
export function runById(shown: JobShown, id: string | undefined): Run | undefined {
  return shown.job.runs?.find((run) => run.id === id);
}
export function rowById(shown: JobShown, id: string | undefined): Row | undefined {
  return shown.job.rows?.find((row) => row.id === id);
}
export function runFigures(shown: JobShown, id: string): RunFigures | undefined {
  return shown.runs.find((run) => run.id === id);
}
export function rowFigures(shown: JobShown, id: string): RowFigures | undefined {
  return shown.rows.find((row) => row.id === id);
}

/** The line a selected thing stands on. */
export function lineOf(shown: JobShown, id: string | undefined): Line | undefined {
  if (!id) return undefined;
  if (id.startsWith("L")) return lineById(shown, id);
  return lineById(shown, runById(shown, id)?.line ?? rowById(shown, id)?.line);
}

export function linePoints(line: Line): Point3[] {
  const ends = line.legs.map((leg) => leg.to as Point3);
  return [line.start as Point3, ...(line.closed ? ends.slice(0, -1) : ends)];
}

export function checksOf(shown: JobShown, id: string): CheckFigures[] {
  return shown.checks.filter((check) => check.thing === id);
}

/** The place at a chainage, for pointing at it in the drawing. */
export function pointAt(line: Line, chainage: number): Point3 {
  const points = linePoints(line);
  const path = line.closed ? [...points, points[0] as Point3] : points;
  let left = chainage;
  for (let i = 0; i + 1 < path.length; i++) {
    const [a, b] = [path[i] as Point3, path[i + 1] as Point3];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
    if (left <= length || i + 2 === path.length) {
      const share = length ? Math.min(1, Math.max(0, left / length)) : 0;
      return [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share];
    }
    left -= length;
  }
  return path[0] as Point3;
}

/** The chainage of the place on a line nearest to a point on plan, and how far off it is, mm. */
export function nearestOn(line: Line, x: number, y: number): { chainage: number; away: number } {
  const points = linePoints(line);
  const path = line.closed ? [...points, points[0] as Point3] : points;
  let best = { chainage: 0, away: Number.POSITIVE_INFINITY };
  let before = 0;
  for (let i = 0; i + 1 < path.length; i++) {
    const [a, b] = [path[i] as Point3, path[i + 1] as Point3];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const length = Math.hypot(dx, dy, b[2] - a[2]);
    const square = dx * dx + dy * dy;
    const share = square ? Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / square)) : 0;
    const away = Math.hypot(x - a[0] - dx * share, y - a[1] - dy * share);
    if (away < best.away) best = { chainage: before + length * share, away };
    before += length;
  }
  return best;
}
