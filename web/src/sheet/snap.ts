/** Snapping while drawing: to points, middles, square to or in line with the last leg, and the grid. */
import type { Point3 } from "../api/client";

export interface Snapped {
  point: [number, number];
  /** What was snapped to, in words; empty where nothing was. */
  what: string;
}

export interface SnapTo {
  points: Point3[];
  middles: Point3[];
  /** The points of the line being drawn. */
  draft: Point3[];
  grid: number;
  /** Reach in mm. */
  reach: number;
}

function nearest(points: Point3[], x: number, y: number, reach: number): Point3 | null {
  let best: Point3 | null = null;
  let least = reach;
  for (const point of points) {
    const away = Math.hypot(point[0] - x, point[1] - y);
    if (away < least) [best, least] = [point, away];
  }
  return best;
}

export function snap(x: number, y: number, to: SnapTo): Snapped {
  const start = to.draft[0];
  if (start && to.draft.length > 2 && Math.hypot(start[0] - x, start[1] - y) < to.reach)
    return { point: [start[0], start[1]], what: "start: closes" };
  const point = nearest(to.points, x, y, to.reach);
  if (point) return { point: [point[0], point[1]], what: "point" };
  const middle = nearest(to.middles, x, y, to.reach * 0.8);
  if (middle) return { point: [middle[0], middle[1]], what: "middle" };
  const last = to.draft.at(-1);
  const before = to.draft.at(-2);
  const gridX = Math.round(x / to.grid) * to.grid;
  const gridY = Math.round(y / to.grid) * to.grid;
  if (last) {
    const along = before ? Math.atan2(last[1] - before[1], last[0] - before[0]) : 0;
    const [c, s] = [Math.cos(along), Math.sin(along)];
    const [dx, dy] = [x - last[0], y - last[1]];
    const forward = dx * c + dy * s;
    const left = dy * c - dx * s;
    const step = (length: number) => Math.round(length / to.grid) * to.grid;
    if (Math.abs(left) < to.reach && Math.abs(forward) > to.reach) {
      const length = step(forward);
      return { point: [last[0] + c * length, last[1] + s * length], what: before ? "in line" : "level" };
    }
    if (Math.abs(forward) < to.reach && Math.abs(left) > to.reach) {
      const length = step(left);
      return { point: [last[0] - s * length, last[1] + c * length], what: before ? "square" : "upright" };
    }
  }
  return { point: [gridX, gridY], what: "grid" };
}

/** The end of a leg of typed length, turned from the last leg; to the right is positive, as one says it on site. */
export function legEnd(draft: Point3[], length: number, turn: number | null, toward: [number, number]): Point3 {
  const last = draft.at(-1) ?? ([0, 0, 0] as Point3);
  const before = draft.at(-2);
  const along = before ? Math.atan2(last[1] - before[1], last[0] - before[0]) : 0;
  const angle = turn === null ? Math.atan2(toward[1] - last[1], toward[0] - last[0]) : along - (turn * Math.PI) / 180;
  return [last[0] + Math.cos(angle) * length, last[1] + Math.sin(angle) * length, last[2]];
}

/** The angle a leg to (x, y) turns from the last one, degrees, to the right positive. */
export function turnTo(draft: Point3[], x: number, y: number): number {
  const last = draft.at(-1);
  const before = draft.at(-2);
  if (!last) return 0;
  const along = before ? Math.atan2(last[1] - before[1], last[0] - before[0]) : 0;
  const turn = ((along - Math.atan2(y - last[1], x - last[0])) * 180) / Math.PI;
  return ((((turn + 180) % 360) + 360) % 360) - 180;
}
