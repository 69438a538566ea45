/** Outlines while they are drawn in the window: open, crossing themselves, or sound. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type OutlineDrawn, type OutlineFault } from "../api/client";
import type { Drawn, Spot } from "./frame";

type Edge = OutlineDrawn["edges"][number];

/** A new outline before its first point. */
export const EMPTY: OutlineSketch = { start: null, edges: [] };

/** An outline being drawn; it has no start before its first point. */
export interface OutlineSketch {
  start: Spot | null;
  edges: Edge[];
}

/** A sketch as an outline of a document; none before its first edge. */
export const outlineIn = ({ start, edges }: OutlineSketch): OutlineDrawn | null =>
  start && edges.length ? { start, edges: edges as [Edge, ...Edge[]] } : null;

/** The points that an outline goes through; a closed one's last is its first again. */
export const spotsOf = ({ start, edges }: OutlineSketch): Spot[] =>
  start ? [start, ...edges.map((edge) => edge.to as Spot)] : [];

/** Whether an outline comes back to where it began. */
export function isClosed(sketch: OutlineSketch): boolean {
  const spots = spotsOf(sketch);
  return spots.length > 2 && Math.hypot(...minus(spots.at(-1) as Spot, spots[0] as Spot)) <= 1e-3;
}

const minus = (a: Spot, b: Spot): Spot => [a[0] - b[0], a[1] - b[1]];

/** The tangent of a quarter of the angle of an arc from a through v to b, positive where it turns anticlockwise. */
function bulgeOf(a: Spot, v: Spot, b: Spot): number {
  const [[ax, ay], [bx, by]] = [minus(a, v), minus(b, v)];
  const seen = Math.atan2(ax * by - ay * bx, ax * bx + ay * by);
  return -Math.sign(seen) * Math.tan((Math.PI - Math.abs(seen)) / 2);
}

const viaOf = ([ax, ay]: Spot, [bx, by]: Spot, bulge: number): Spot => [
  (ax + bx) / 2 + (bulge * (by - ay)) / 2,
  (ay + by) / 2 - (bulge * (bx - ax)) / 2,
];

/** An edge between other ends: an arc keeps its angle, a curve's handles go with their points. */
function between(edge: Edge, [a, b]: [Spot, Spot], [c, d]: [Spot, Spot]): Edge {
  if (edge.kind === "arc") return { ...edge, to: d, via: viaOf(c, d, bulgeOf(a, edge.via as Spot, b)) };
  if (edge.kind !== "curve") return { ...edge, to: d };
  const [p, q] = edge.controls as [Spot, Spot];
  const moved = (at: Spot, from: Spot, to: Spot): Spot => [at[0] + to[0] - from[0], at[1] + to[1] - from[1]];
  return { ...edge, to: d, controls: [moved(p, a, c), moved(q, b, d)] };
}

/** An outline with a point moved to a place; the first and the last of a closed one are the same. */
export function withMoved(sketch: OutlineSketch, point: number, to: Spot): OutlineSketch {
  const before = spotsOf(sketch);
  const last = before.length - 1;
  const closed = isClosed(sketch);
  const after = before.map((at, i) => (i === point || (closed && i % last === point % last) ? to : at));
  const edges = sketch.edges.map((edge, i) =>
    between(edge, [before[i] as Spot, before[i + 1] as Spot], [after[i] as Spot, after[i + 1] as Spot]),
  );
  return { start: after[0] as Spot, edges };
}

/** An outline without one of its points; what went to it goes straight to the next. */
export function withoutPoint(sketch: OutlineSketch, point: number): OutlineSketch {
  const spots = spotsOf(sketch);
  if (point === 0 && isClosed(sketch)) {
    const first = spots[1] as Spot;
    return { start: first, edges: [...sketch.edges.slice(1, -1), { kind: "straight", to: first }] };
  }
  if (point === 0) return spots.length > 1 ? { start: spots[1] as Spot, edges: sketch.edges.slice(1) } : EMPTY;
  const next = sketch.edges[point];
  const edges = sketch.edges.filter((_, i) => i !== point - 1);
  if (next) edges[point - 1] = { kind: "straight", to: next.to };
  return { ...sketch, edges };
}

/** A loop of a section as it is drawn, as a sketch. */
export function sketchOf({ points, edges }: Drawn["loops"][number]): OutlineSketch {
  const spots = points.map((point) => point.at as Spot);
  return {
    start: spots[0] ?? null,
    edges: edges.map((edge, i): Edge => {
      const to = spots[(i + 1) % spots.length] as Spot;
      if (edge.kind === "arc") return { kind: "arc", to, via: edge.by[0] as Spot };
      return edge.kind === "curve"
        ? { kind: "curve", to, controls: [edge.by[0] as Spot, edge.by[1] as Spot] }
        : { kind: "straight", to };
    }),
  };
}

/** A sketch as the `d` of an SVG path, by where its places come to. */
export function drawnPath(sketch: OutlineSketch, at: (spot: Spot) => Spot): string {
  if (!sketch.start) return "";
  let from = sketch.start;
  let d = `M${at(from)}`;
  for (const edge of sketch.edges) {
    const to = edge.to as Spot;
    if (edge.kind === "curve") d += `C${edge.controls.map((one) => at(one as Spot)).join(" ")} ${at(to)}`;
    else if (edge.kind === "arc") {
      const [bulge, chord] = [bulgeOf(from, edge.via as Spot, to), Math.hypot(...minus(at(to), at(from)))];
      const radius = (chord * (1 + bulge * bulge)) / (4 * Math.abs(bulge));
      // y runs down on the desk: what turns anticlockwise in the drawing does so as it is seen.
      d += Number.isFinite(radius)
        ? `A${radius} ${radius} 0 ${Math.abs(bulge) > 1 ? 1 : 0} ${bulge > 0 ? 0 : 1} ${at(to)}`
        : `L${at(to)}`;
    } else d += `L${at(to)}`;
    from = to;
  }
  return d;
}

/** What is wrong with an outline, asked of the service while it is drawn. */
export function useFaults(outline: OutlineDrawn | null, holes: readonly OutlineDrawn[] = []): OutlineFault[] {
  const { data } = useQuery({
    queryKey: ["outline faults", outline, holes],
    queryFn: () =>
      answer<OutlineFault[]>(
        api.POST("/api/sections/faults", { body: { outline: outline as OutlineDrawn, holes: [...holes] } }),
      ),
    enabled: outline !== null,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
    retry: 1,
  });
  return outline ? (data ?? []) : [];
}
