/** Where an outline lies on the desk. */
import type { SectionFigures } from "../api/client";
import type { Part } from "../window/store";

export type Drawn = SectionFigures["drawn"];
export type Spot = [number, number];

/** Places of the drawing are mm; `left` and `foot` are where its own (x, y) lies, px. */
export interface DeskFrame {
  scale: number;
  left: number;
  foot: number;
  x: number;
  y: number;
}

/** Pixels that the sample takes up, and the figures on the two sides of the outline. */
const [SAMPLE, LEFT, RIGHT] = [214, 90, 60];

/** A frame in which a section of a size, whose back foot is at a place of the drawing, lies in the middle of the desk. */
export function deskFrame(
  size: { width: number; height: number },
  section: { width: number; height: number },
  origin: Spot,
): DeskFrame {
  // The sample stands at the lower left; the figures of the outline need their room on every side of it.
  const free = size.width - SAMPLE - LEFT - RIGHT;
  const scale = Math.max(0.01, Math.min(free / section.width, (size.height - 170) / section.height));
  return {
    scale,
    left: SAMPLE + LEFT + (free - section.width * scale) / 2,
    foot: (size.height + section.height * scale) / 2 + 12,
    x: origin[0],
    y: origin[1],
  };
}

export const onDesk = (frame: DeskFrame, [x, y]: readonly number[]): Spot => [
  frame.left + ((x ?? 0) - frame.x) * frame.scale,
  frame.foot - ((y ?? 0) - frame.y) * frame.scale,
];

export const inDrawing = (frame: DeskFrame, px: number, py: number): Spot => [
  frame.x + (px - frame.left) / frame.scale,
  frame.y - (py - frame.foot) / frame.scale,
];

/** The distance between the lines of the squared paper, mm: at least nine pixels. */
export const squares = (scale: number) =>
  [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((one) => one * scale > 9) ?? 1000;

/** An edge as the `d` of an SVG path on the desk. */
export function edgePath(frame: DeskFrame, drawn: Drawn, { loop, index }: Omit<Part, "kind">): string {
  const { points, edges } = drawn.loops[loop] as Drawn["loops"][number];
  const edge = edges[index] as (typeof edges)[number];
  const begin = onDesk(frame, points[index]?.at as Spot);
  const end = onDesk(frame, points[(index + 1) % points.length]?.at as Spot);
  const by = edge.by.map((place) => onDesk(frame, place as Spot));
  if (edge.kind === "curve") return `M${begin}C${by.join(" ")} ${end}`;
  const via = by[0];
  if (edge.kind !== "arc" || !via) return `M${begin}L${end}`;
  const radius = (edge.radius ?? 1) * frame.scale;
  // y runs down on the desk, so that an arc that passes right of its chord there turns anticlockwise as it is seen.
  const side = (via[0] - begin[0]) * (end[1] - begin[1]) - (via[1] - begin[1]) * (end[0] - begin[0]);
  const large = edge.length > Math.PI * (edge.radius ?? 1);
  return `M${begin}A${radius} ${radius} 0 ${large ? 1 : 0} ${side > 0 ? 1 : 0} ${end}`;
}

export const samePart = (a: Part, b: Part) => a.kind === b.kind && a.loop === b.loop && a.index === b.index;

/**
 * A place under the hand, brought into line with points of the outline that are within a few pixels of its height or its
 * upright, and else with the squared paper; with the places it was brought into line with.
 */
export function snapped(
  frame: DeskFrame,
  drawn: Drawn | null,
  [x, y]: Spot,
  besides: readonly Spot[] = [],
): { at: Spot; with: Spot[] } {
  const reach = 6 / frame.scale;
  const points = [...(drawn?.loops.flatMap((loop) => loop.points.map((point) => point.at as Spot)) ?? []), ...besides];
  const step = Math.min(1, squares(frame.scale));
  const line = (axis: 0 | 1, value: number) => {
    let best: Spot | null = null;
    for (const point of points)
      if (
        Math.abs(point[axis] - value) < reach &&
        (!best || Math.abs(point[axis] - value) < Math.abs(best[axis] - value))
      )
        best = point;
    return best;
  };
  const [across, up] = [line(0, x), line(1, y)];
  // The paper's lines are counted from the back foot.
  const square = (value: number, from: number) => from + Math.round((value - from) / step) * step;
  return {
    at: [across ? across[0] : square(x, frame.x), up ? up[1] : square(y, frame.y)],
    with: [across, up].filter((one) => one !== null),
  };
}
