/** Snapping while drawing: to points, middles, chainages of other lines, tangents, square to or in line with the last leg, the grid. */
import Flatbush from "flatbush";
import type { Line, Point3 } from "../api/client";
import { linePoints, type Path } from "../window/things";

export interface Snapped {
  point: [number, number];
  /** What was snapped to, in words; empty where nothing was. */
  what: string;
  /** The place on a line that was snapped to, which the service knows more exactly than its drawing does. */
  on?: { line: string; chainage: number; touching: boolean };
}

export interface SnapTo {
  points: Point3[];
  middles: Point3[];
  /** Other lines. */
  lines: { id: string; name: string; path: Path }[];
  /** Whether a straight can touch them: the drawing is in plan. */
  touches: boolean;
  /** Where the line being drawn begins and has come to, and its heading there, radians from east. */
  start: Point3 | null;
  last: Point3 | null;
  heading: number | null;
  canClose: boolean;
  grid: number;
  /** Reach in mm. */
  reach: number;
  /** A chainage as it is shown. */
  say: (mm: number) => string;
}

interface Near {
  points: Point3[];
  middles: Point3[];
  lines: SnapTo["lines"];
}

/** What lies near a place, of any number of lines: each leg's box is in an index, and only those that are met are looked at. */
export function snapIndex(lines: { line: Line; path: Path }[]): (x: number, y: number, reach: number) => Near {
  const legs: { line: number; begin: number }[] = [];
  const boxes: [number, number, number, number][] = [];
  lines.forEach(({ path }, line) => {
    path.points.slice(1).forEach((b, begin) => {
      const a = path.points[begin] as Point3;
      legs.push({ line, begin });
      boxes.push([Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])]);
    });
  });
  if (!legs.length) return () => ({ points: [], middles: [], lines: [] });
  const index = new Flatbush(legs.length);
  for (const box of boxes) index.add(...box);
  index.finish();
  const known = new Map<number, { points: Point3[]; middles: Point3[] }>();
  const marksOf = (number: number) => {
    const found = known.get(number) ?? marks(lines[number]?.line as Line);
    known.set(number, found);
    return found;
  };
  return (x, y, reach) => {
    const met = new Set(
      index.search(x - reach, y - reach, x + reach, y + reach).map((leg) => (legs[leg] as { line: number }).line),
    );
    const near: Near = { points: [], middles: [], lines: [] };
    for (const number of met) {
      const { line, path } = lines[number] as { line: Line; path: Path };
      const { points, middles } = marksOf(number);
      near.points.push(...points);
      near.middles.push(...middles);
      near.lines.push({ id: line.id, name: line.name, path });
    }
    return near;
  };
}

/** The points of a line, and the middles of its straights. */
function marks(line: Line): { points: Point3[]; middles: Point3[] } {
  const points = linePoints(line);
  const path = line.closed ? [...points, points[0] as Point3] : points;
  const middles = path.slice(1).flatMap((b, i) => {
    if (line.legs[i]?.kind !== "straight") return [];
    const a = path[i] as Point3;
    return [[(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2] as Point3];
  });
  return { points, middles };
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
  const { start, last } = to;
  if (start && to.canClose && Math.hypot(start[0] - x, start[1] - y) < to.reach)
    return { point: [start[0], start[1]], what: "start: closes" };
  const point = nearest(to.points, x, y, to.reach);
  if (point) return { point: [point[0], point[1]], what: "point" };
  const middle = nearest(to.middles, x, y, to.reach * 0.8);
  if (middle) return { point: [middle[0], middle[1]], what: "middle" };
  const touching = last && to.touches && tangentNear(to.lines, last, x, y, to.reach);
  if (touching) return touching;
  const along = alongLine(to, x, y);
  if (along) return along;
  const gridX = Math.round(x / to.grid) * to.grid;
  const gridY = Math.round(y / to.grid) * to.grid;
  if (last) {
    const [c, s] = [Math.cos(to.heading ?? 0), Math.sin(to.heading ?? 0)];
    const [dx, dy] = [x - last[0], y - last[1]];
    const forward = dx * c + dy * s;
    const left = dy * c - dx * s;
    const step = (length: number) => Math.round(length / to.grid) * to.grid;
    if (Math.abs(left) < to.reach && Math.abs(forward) > to.reach) {
      const length = step(forward);
      return { point: [last[0] + c * length, last[1] + s * length], what: to.heading === null ? "level" : "in line" };
    }
    if (Math.abs(forward) < to.reach && Math.abs(left) > to.reach) {
      const length = step(left);
      return { point: [last[0] - s * length, last[1] + c * length], what: to.heading === null ? "upright" : "square" };
    }
  }
  return { point: [gridX, gridY], what: "grid" };
}

/** A round chainage of a line near by. */
function alongLine(to: SnapTo, x: number, y: number): Snapped | null {
  let best: { away: number; snapped: Snapped } | null = null;
  for (const { id, name, path } of to.lines) {
    for (let i = 0; i + 1 < path.points.length; i++) {
      const [a, b] = [path.points[i] as Point3, path.points[i + 1] as Point3];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const square = dx * dx + dy * dy;
      if (!square) continue;
      const share = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / square));
      const away = Math.hypot(x - a[0] - dx * share, y - a[1] - dy * share);
      if (away > to.reach * 0.7 || (best && away >= best.away)) continue;
      const [from = 0, end = 0] = [path.chainages[i], path.chainages[i + 1]];
      const rounded = Math.round((from + (end - from) * share) / to.grid) * to.grid;
      const at = end > from ? Math.min(1, Math.max(0, (rounded - from) / (end - from))) : 0;
      const chainage = from + (end - from) * at;
      best = {
        away,
        snapped: {
          point: [a[0] + dx * at, a[1] + dy * at],
          what: `${name} at ${to.say(chainage)}`,
          on: { line: id, chainage, touching: false },
        },
      };
    }
  }
  return best?.snapped ?? null;
}

/** Where a straight from the last point touches a curve near the pointer. */
function tangentNear(lines: SnapTo["lines"], last: Point3, x: number, y: number, reach: number): Snapped | null {
  for (const { id, name, path } of lines) {
    // A line of straights has no tangents but its own legs.
    if (path.points.length < 12) continue;
    let before: number | null = null;
    for (let i = 0; i + 1 < path.points.length; i++) {
      const [a, b] = [path.points[i] as Point3, path.points[i + 1] as Point3];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const cross = (a[0] - last[0]) * dy - (a[1] - last[1]) * dx;
      const turns = before !== null && Math.sign(cross) !== Math.sign(before) && Math.abs(cross) < 1e12;
      if (turns && Math.hypot(a[0] - x, a[1] - y) < reach && Math.hypot(a[0] - last[0], a[1] - last[1]) > reach) {
        const size = Math.hypot(dx, dy) || 1;
        const ahead = ((a[0] - last[0]) * dx + (a[1] - last[1]) * dy) / size;
        // At a corner the sides change too, but the straight does not run along the line there.
        if (Math.abs(ahead) > 0.98 * Math.hypot(a[0] - last[0], a[1] - last[1]))
          return {
            point: [a[0], a[1]],
            what: `tangent to ${name}`,
            on: { line: id, chainage: path.chainages[i] ?? 0, touching: true },
          };
      }
      before = cross;
    }
  }
  return null;
}

/** The end of a leg of typed length: turned from the heading, to the right positive as one says it on site, or toward a place. */
export function legEnd(
  last: Point3,
  heading: number | null,
  length: number,
  turn: number | null,
  toward: readonly number[],
): [number, number] {
  const angle =
    turn === null
      ? Math.atan2((toward[1] ?? 0) - last[1], (toward[0] ?? 0) - last[0])
      : (heading ?? 0) - (turn * Math.PI) / 180;
  return [last[0] + Math.cos(angle) * length, last[1] + Math.sin(angle) * length];
}

/** The angle a leg to (x, y) turns from the heading, degrees, to the right positive. */
export function turnTo(last: Point3, heading: number | null, x: number, y: number): number {
  const turn = (((heading ?? 0) - Math.atan2(y - last[1], x - last[0])) * 180) / Math.PI;
  return ((((turn + 180) % 360) + 360) % 360) - 180;
}
