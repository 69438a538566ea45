/** Looking things up in a job that is shown. */
import type {
  Between,
  CheckFigures,
  Draft,
  JobShown,
  Leg,
  Line,
  LineFigures,
  Picture,
  Point3,
  Row,
  RowFigures,
  Run,
  RunFigures,
  Section,
  Typical,
  TypicalFigures,
} from "../api/client";
import { byId, groupIn } from "./groups";

export function lineById(shown: JobShown, id: string | undefined): Line | undefined {
  return byId(shown.job.lines, id);
}
export function sectionById(shown: JobShown, id: string | undefined): Section | undefined {
  return byId(shown.job.sections, id);
}
/** The section that a run is made of: as it is in the row of its range that the run is made in. */
export function sectionOfRun(shown: JobShown, run: Run | undefined): Section | undefined {
  const section = sectionById(shown, run?.section);
  if (!section || !run?.size) return section;
  const row = shown.sections.find((one) => one.id === section.id)?.range.find((one) => one.name === run.size);
  if (!row) return section;
  const { width, height, wall } = row;
  return { ...section, name: `${section.name}, ${row.name}`, width, height, wall };
}
export function draftById(shown: JobShown, id: string | undefined): Draft | undefined {
  return byId(shown.job.drafts, id);
}
export function runById(shown: JobShown, id: string | undefined): Run | undefined {
  return byId(shown.job.runs, id);
}
export function rowById(shown: JobShown, id: string | undefined): Row | undefined {
  return byId(shown.job.rows, id);
}
export function pictureById(shown: JobShown, id: string | undefined): Picture | undefined {
  return byId(shown.job.pictures, id);
}
export function typicalById(shown: JobShown, id: string | undefined): Typical | undefined {
  return byId(shown.job.typicals, id);
}
/** The typical that a line belongs to, if any: it then stands in several places. */
export function typicalOf(shown: JobShown, line: string | undefined): Typical | undefined {
  return line ? shown.job.typicals?.find((one) => one.lines.includes(line)) : undefined;
}
export function typicalFigures(shown: JobShown, id: string | undefined): TypicalFigures | undefined {
  return byId(shown.typicals, id);
}

export function lineFigures(shown: JobShown, id: string): LineFigures | undefined {
  return byId(shown.lines, id);
}
export function runFigures(shown: JobShown, id: string): RunFigures | undefined {
  return byId(shown.runs, id);
}
export function rowFigures(shown: JobShown, id: string): RowFigures | undefined {
  return byId(shown.rows, id);
}

/** The line a selected thing stands on. */
export function lineOf(shown: JobShown, id: string | undefined): Line | undefined {
  if (!id) return undefined;
  if (groupIn(shown.job, id) === "lines") return lineById(shown, id);
  return lineById(shown, runById(shown, id)?.line ?? rowById(shown, id)?.line);
}

/** A stretch of a line in words: by the openings that bound it. */
export function stretchWords(shown: JobShown, id: string, between: Between): string {
  const openings = lineById(shown, id)?.openings ?? [];
  const name = (one: string | null | undefined) => openings.find((opening) => opening.id === one)?.name ?? one;
  if (between.after && between.after === between.before) return `round from ${name(between.after)} back to it`;
  if (between.after && between.before) return `from ${name(between.after)} to ${name(between.before)}`;
  if (between.after) return `after ${name(between.after)}`;
  return between.before ? `up to ${name(between.before)}` : "along the whole line";
}

export function linePoints(line: Line): Point3[] {
  const ends = line.legs.map((leg) => leg.to as Point3);
  return [line.start as Point3, ...(line.closed ? ends.slice(0, -1) : ends)];
}

/** The number by which a point of a line, counted from 0, is referred to; a leg is by the point where it begins. */
export function pointId(line: Line | undefined, index: number): number {
  return line?.point_ids?.[index] ?? index;
}

/** The points that shape a leg besides its ends, in order: one on an arc, those a spline through points passes, a curve's controls. */
export function shapePoints(leg: Leg): Point3[] {
  if (leg.kind === "arc") return [leg.via as Point3];
  if (leg.kind === "through") return (leg.points ?? []).map((point) => point.at as Point3);
  return leg.kind === "curve" ? ([...leg.controls] as Point3[]) : [];
}

/** The leg with these points to shape it, as it is seen on a plane. */
export function shapedBy(leg: Leg, points: Point3[]): Leg {
  if (leg.kind === "arc") return { ...leg, via: points[0] ?? leg.via };
  if (leg.kind === "through")
    return { ...leg, points: (leg.points ?? []).map((point, i) => ({ ...point, at: points[i] ?? point.at })) };
  return leg.kind === "curve" ? { ...leg, controls: points } : leg;
}

export function checksOf(shown: JobShown, id: string): CheckFigures[] {
  return shown.checked[id] ?? [];
}

/** A line as it is drawn: its places in order, a closed one's start twice, each with its chainage. */
export interface Path {
  points: Point3[];
  chainages: number[];
  /** What it fills on plan, mm: left, bottom, right, top. */
  box: [number, number, number, number];
}

const paths = new WeakMap<Line, Path>();

/** The path of a line: the service's own for one with curves, else through its points. */
export function pathOf(shown: JobShown, line: Line): Path {
  const known = paths.get(line);
  if (known) return known;
  const figures = byId(shown.lines, line.id);
  let path: Omit<Path, "box">;
  if (figures?.path && figures.chainages) {
    path = { points: figures.path as Point3[], chainages: figures.chainages };
  } else {
    const around = linePoints(line);
    const points = line.closed ? [...around, around[0] as Point3] : around;
    let at = 0;
    const chainages = points.map((point, i) => {
      const before = points[i - 1];
      if (before) at += Math.hypot(point[0] - before[0], point[1] - before[1], point[2] - before[2]);
      return at;
    });
    path = { points, chainages };
  }
  // A curve is drawn by its points only until its figures come.
  const found = { ...path, box: boxAround(path.points) };
  if (figures || line.legs.every((leg) => leg.kind === "straight" && !leg.round)) paths.set(line, found);
  return found;
}

function boxAround(points: readonly Point3[]): Path["box"] {
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of points) {
    left = Math.min(left, x);
    bottom = Math.min(bottom, y);
    right = Math.max(right, x);
    top = Math.max(top, y);
  }
  return [left, bottom, right, top];
}

/** The place at a chainage, for pointing at it in the drawing. */
export function pointAt({ points, chainages }: Path, chainage: number): Point3 {
  let i = 0;
  while (i + 2 < points.length && (chainages[i + 1] ?? 0) < chainage) i++;
  const [a, b] = [points[i] as Point3, (points[i + 1] ?? points[i]) as Point3];
  const [from = 0, to = 0] = [chainages[i], chainages[i + 1]];
  const share = to > from ? Math.min(1, Math.max(0, (chainage - from) / (to - from))) : 0;
  return [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share];
}

/** The part of a path between two chainages; on a closed line `to` may go past the start. */
export function partOf(path: Path, from: number, to: number): Point3[] {
  const length = path.chainages.at(-1) ?? 0;
  if (to > length + 1e-6) return [...partOf(path, from, length), ...partOf(path, 0, to - length)];
  const inside = path.points.filter((_, i) => (path.chainages[i] ?? 0) > from && (path.chainages[i] ?? 0) < to);
  return [pointAt(path, from), ...inside, pointAt(path, to)];
}

/** The chainage of the place on a path nearest to a point on plan, and how far off it is, mm. */
export function nearestOn({ points, chainages }: Path, x: number, y: number): { chainage: number; away: number } {
  let best = { chainage: 0, away: Number.POSITIVE_INFINITY };
  for (let i = 0; i + 1 < points.length; i++) {
    const [a, b] = [points[i] as Point3, points[i + 1] as Point3];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const square = dx * dx + dy * dy;
    const share = square ? Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / square)) : 0;
    const away = Math.hypot(x - a[0] - dx * share, y - a[1] - dy * share);
    if (away < best.away) {
      const [from = 0, to = 0] = [chainages[i], chainages[i + 1]];
      best = { chainage: from + (to - from) * share, away };
    }
  }
  return best;
}

/** The places of a line that have names: not those at which only an item is held. */
/** The sides of a closed line, counted from 1: the numbers of the points at the ends of each, and how far apart these are. */
export function sidesOf(line: Line): { number: number; points: [number, number]; length: number }[] {
  // A border of very many sides has none that rows are laid along.
  if (!line.closed || line.legs.length > 60) return [];
  const begins = [line.start, ...line.legs.slice(0, -1).map((leg) => leg.to)] as Point3[];
  const ids = line.point_ids?.length ? line.point_ids : begins.map((_, i) => i);
  return begins.map((begin, i) => {
    const next = (i + 1) % begins.length;
    const end = begins[next] as Point3;
    return {
      number: i + 1,
      points: [ids[i] as number, ids[next] as number],
      length: Math.hypot(end[0] - begin[0], end[1] - begin[1]),
    };
  });
}

export const namedMarks = (line: Line) => (line.marks ?? []).filter((mark) => !mark.holds);
