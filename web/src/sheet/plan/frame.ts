/** The plan's frame: which part of the job the sheet shows, and at what scale. */
import type { JobShown, Point3, Units } from "../../api/client";
import { pointsInPlaces } from "../../window/instances";
import { lineOf, pathOf, typicalById } from "../../window/things";

type System = NonNullable<Units["system"]>;

export interface Frame {
  /** The job point in the middle of the sheet, mm. */
  x: number;
  y: number;
  /** Pixels for a millimetre. */
  scale: number;
}

/** The frame with the size of the sheet, pixels. */
export interface Sheet {
  frame: Frame;
  width: number;
  height: number;
}

export type Box = [number, number, number, number];

export function toSheet(frame: Frame, width: number, height: number, x: number, y: number): [number, number] {
  return [width / 2 + (x - frame.x) * frame.scale, height / 2 - (y - frame.y) * frame.scale];
}

export function toJob(frame: Frame, width: number, height: number, px: number, py: number): [number, number] {
  return [frame.x + (px - width / 2) / frame.scale, frame.y - (py - height / 2) / frame.scale];
}

export function boxOf(points: readonly (readonly number[])[]): Box | null {
  if (!points.length) return null;
  let [left, low, right, high] = [
    Number.POSITIVE_INFINITY,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
  ];
  for (const point of points) {
    const [x = 0, y = 0] = point;
    left = Math.min(left, x);
    right = Math.max(right, x);
    low = Math.min(low, y);
    high = Math.max(high, y);
  }
  return [left, low, right, high];
}

export function fitted(box: Box | null, width: number, height: number, margin = 90): Frame {
  if (!box) return { x: 3000, y: 2000, scale: 0.08 };
  const wide = Math.max(box[2] - box[0], 1);
  const high = Math.max(box[3] - box[1], 1);
  const scale = Math.min((width - 2 * margin) / wide, (height - 2 * margin) / high);
  return { x: (box[0] + box[2]) / 2, y: (box[1] + box[3]) / 2, scale: Math.min(Math.max(scale, 1e-6), 20) };
}

/** The points to fit: those of the selected things, or of everything. */
export function fitPoints(shown: JobShown, selected: string[]): Point3[] {
  const lines = selected.map((id) => lineOf(shown, id)).filter((line) => line !== undefined);
  const typicals = selected.map((id) => typicalById(shown, id)).filter((one) => one !== undefined);
  const some = lines.length || typicals.length;
  return [
    ...(some ? lines : (shown.job.lines ?? [])).flatMap((line) => pathOf(shown, line).points),
    ...(some ? typicals : (shown.job.typicals ?? [])).flatMap((typical) => pointsInPlaces(shown, typical)),
  ];
}

const FOOT = 304.8;

/** A round grid step at least `least` pixels wide, mm: 1, 2 or 5 times a power of ten, or whole inches and feet. */
export function gridStep(scale: number, system: System, least = 22): number {
  const raw = least / scale;
  if (system === "ft-in") {
    const inches = [1, 3, 6].map((times) => times * (FOOT / 12)).find((step) => step >= raw);
    return inches ?? FOOT * roundStep(raw / FOOT);
  }
  return roundStep(raw);
}

function roundStep(raw: number): number {
  const power = 10 ** Math.floor(Math.log10(raw));
  return ([1, 2, 5, 10].find((times) => times * power >= raw * (1 - 1e-9)) ?? 10) * power;
}

/** Round chainages to mark on a rod: about `wanted` of them, whole feet where the job is in feet. */
export function chainageTicks(length: number, system: System, wanted: number): number[] {
  const unit = system === "ft-in" ? FOOT : 1;
  const step = Math.max(roundStep(length / unit / Math.max(1, wanted)), system === "ft-in" ? 1 : 0) * unit;
  return Array.from({ length: Math.floor(length / step + 1e-9) + 1 }, (_, i) => i * step);
}
