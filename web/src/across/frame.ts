/** Where places of a cut lie on the sheet, and what a run that is dragged there is brought into line with. */
import type { RunFigures } from "../api/client";

export type Spot = [number, number];
export type Box = [number, number, number, number];

/** Millimetres to the right of the line and up come to pixels: `x`, `y` is where the line lies. */
export interface CutFrame {
  scale: number;
  x: number;
  y: number;
}

export const onSheet = (frame: CutFrame, [x, y]: readonly number[]): Spot => [
  frame.x + (x ?? 0) * frame.scale,
  frame.y - (y ?? 0) * frame.scale,
];

/** A frame in which a box lies in the middle of the sheet, with room about it. */
export function frameOf(size: { width: number; height: number }, [left, low, right, high]: Box): CutFrame {
  const scale = Math.min(
    (size.width - 260) / Math.max(right - left, 1),
    (size.height - 190) / Math.max(high - low, 1),
    12,
  );
  return {
    scale,
    x: size.width / 2 - ((left + right) / 2) * scale,
    y: size.height / 2 + 14 + ((low + high) / 2) * scale,
  };
}

/** A point of a run's section as it is placed on its line. */
export function placed(run: RunFigures, [x, y]: readonly number[]): Spot {
  const [[a, b], [c, d]] = run.matrix as [[number, number], [number, number]];
  const [e, f] = run.shift as Spot;
  return [a * (x ?? 0) + b * (y ?? 0) + e, c * (x ?? 0) + d * (y ?? 0) + f];
}

/** The box of a section of a size as it is placed: of its own box's corners. */
export function placedBox(run: RunFigures, size: { width: number; height: number }): Box {
  const corners = [
    [0, 0],
    [size.width, 0],
    [0, size.height],
    [size.width, size.height],
  ].map((corner) => placed(run, corner));
  const xs = corners.map((corner) => corner[0]);
  const ys = corners.map((corner) => corner[1]);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export const around = (boxes: Box[]): Box => [
  Math.min(...boxes.map((box) => box[0])),
  Math.min(...boxes.map((box) => box[1])),
  Math.max(...boxes.map((box) => box[2])),
  Math.max(...boxes.map((box) => box[3])),
];

/**
 * How far something is moved so that one of its own places comes into line with a place that stands there: by what was
 * dragged, and a little more or less where that is within reach. `lines` are the places it was brought into line with.
 */
export function alignedMove(
  moved: Spot,
  own: readonly Spot[],
  others: readonly Spot[],
  reach: number,
): { by: Spot; lines: [Spot | null, Spot | null] } {
  const lines: [Spot | null, Spot | null] = [null, null];
  const by = moved.map((mm, axis) => {
    let best = reach;
    let found = mm;
    for (const place of own)
      for (const other of others) {
        const off = (other[axis as 0 | 1] as number) - (place[axis as 0 | 1] + mm);
        if (Math.abs(off) < best) {
          best = Math.abs(off);
          found = mm + off;
          lines[axis as 0 | 1] = other;
        }
      }
    return found;
  }) as Spot;
  return { by, lines };
}
