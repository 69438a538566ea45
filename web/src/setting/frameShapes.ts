/** The shapes of frames, and the figures that each of them has. */
import type { Line } from "../api/client";

export type Frame = Extract<NonNullable<Line["made"]>, { kind: "frame" }>;

export interface FrameShape {
  shape: NonNullable<Frame["shape"]>;
  words: string;
  /** Whether it has a width of its own, eaves, and members that stand for a curve or its sides. */
  width?: true;
  eaves?: true;
  facets?: string;
}

export const frameShapes: FrameShape[] = [
  { shape: "arch", words: "Arch on upright sides", width: true, facets: "Members of the arch" },
  { shape: "segment", words: "Arc from end to end", width: true, facets: "Members of the arc" },
  { shape: "gable", words: "Gable", width: true, eaves: true },
  { shape: "rectangle", words: "Rectangle", width: true },
  { shape: "polygon", words: "Equal sides", facets: "Sides" },
];

export function frameShapeOf(shape: string | undefined): FrameShape {
  return frameShapes.find((one) => one.shape === shape) ?? (frameShapes[0] as FrameShape);
}
