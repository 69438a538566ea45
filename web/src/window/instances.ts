/** Where what is drawn once stands: points and figures carried to the places of a typical. */
import type { JobShown, LineFigures, PlaceFigures, Point3, RowFigures, RunFigures, Typical } from "../api/client";
import { lineById, linePoints, pathOf, rowById, runById, typicalById } from "./things";

/** A point of what is drawn, carried to a place: mirrored in x first, then turned, then moved. */
export function carried({ over, turn, shift }: PlaceFigures, [x, y, z]: Point3): Point3 {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const [sx, sy, sz] = shift as Point3;
  const across = over ? -x : x;
  return [c * across - s * y + sx, s * across + c * y + sy, z + sz];
}

/** The same as a transform of plan, for a drawing. */
export function onPlan({ over, turn, shift }: PlaceFigures): string {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const way = over ? -1 : 1;
  return `matrix(${way * c} ${way * s} ${-s} ${c} ${shift[0]} ${shift[1]})`;
}

/** Whether a place is where its typical is drawn: that is drawn already. */
export function isHere(typical: Typical | undefined, place: PlaceFigures): boolean {
  return place.variant === 0 && place.name === (typical?.here ?? "1");
}

/** What stands in the places of a typical, variant by variant: its runs and rows as they are before they are carried there. */
export interface Stands {
  number: number;
  runs: RunFigures[];
  rows: RowFigures[];
  places: PlaceFigures[];
  /** Its lines, as they are drawn. */
  paths: Point3[][];
  /** What fills its frames. */
  panes: NonNullable<LineFigures["pane"]>[];
}

export function standing(shown: JobShown, id: string): Stands[] {
  const typical = typicalById(shown, id);
  const figures = shown.typicals.find((one) => one.id === id);
  if (!typical || !figures) return [];
  return figures.variants.map((variant, number) => ({
    number,
    runs: number ? variant.runs : drawnRuns(shown, typical),
    rows: number ? variant.rows : drawnRows(shown, typical),
    paths: number ? (variant.paths as Point3[][]) : drawnPaths(shown, typical),
    panes: number ? variant.panes : drawnPanes(shown, typical),
    places: figures.places.filter((place) => place.variant === number && !isHere(typical, place)),
  }));
}

function drawnPaths(shown: JobShown, typical: Typical): Point3[][] {
  return typical.lines.flatMap((id) => {
    const line = lineById(shown, id);
    return line ? [pathOf(shown, line).points] : [];
  });
}

function drawnPanes(shown: JobShown, typical: Typical): Stands["panes"] {
  const own = shown.lines.filter(({ id }) => typical.lines.includes(id));
  return own.flatMap(({ pane }) => (pane ? [pane] : []));
}

function drawnRuns(shown: JobShown, typical: Typical): RunFigures[] {
  return shown.runs.filter((run) => typical.lines.includes(runById(shown, run.id)?.line ?? ""));
}

function drawnRows(shown: JobShown, typical: Typical): RowFigures[] {
  return shown.rows.filter((row) => typical.lines.includes(rowById(shown, row.id)?.line ?? ""));
}

/** Points around what stands in the places of a typical, where it is drawn among them. */
export function pointsInPlaces(shown: JobShown, typical: Typical): Point3[] {
  const drawn = typical.lines.flatMap((id) => {
    const line = lineById(shown, id);
    return line ? [...pathOf(shown, line).points, ...linePoints(line)] : [];
  });
  const places = shown.typicals.find((one) => one.id === typical.id)?.places ?? [];
  return [...drawn, ...places.flatMap((place) => drawn.map((point) => carried(place, point)))];
}
