/**
 * What lies under the plan and does not change with what is selected: pictures, the grid, and, in a job of very many lines,
 * the lines. It is painted apart from the things over it, so that a change of those does not paint it anew.
 */
import { memo, type ReactNode, useLayoutEffect, useRef } from "react";
import type { JobShown, Line, Point3 } from "../../api/client";
import { colour } from "../../ui/colour";
import { useShown } from "../../window/job";
import { type Path, pathOf } from "../../window/things";
import { type Sheet, toSheet } from "./frame";
import { PlanPictures } from "./PlanPictures";

/** From so many lines on, all are one drawing; a click finds the nearest by itself. */
const MANY = 1500;

export const areMany = (lines: readonly Line[]) => lines.length > MANY;

export function Ground({ children, ...sheet }: Sheet & { children: ReactNode }) {
  const { frame, width, height } = sheet;
  const shown = useShown();
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  return (
    <>
      <svg aria-hidden className="pointer-events-none absolute inset-0 size-full">
        <PlanPictures {...sheet} />
        {children}
      </svg>
      {areMany(shown.job.lines ?? []) && <ManyLines shown={shown} scale={frame.scale} tx={tx} ty={ty} />}
    </>
  );
}

export function Grid({
  name,
  size,
  gx,
  gy,
  width,
  height,
}: {
  name: "grid" | "grid-strong";
  /** Between two of its lines, px. */
  size: number;
  /** Where the origin lies, px. */
  gx: number;
  gy: number;
  width: number;
  height: number;
}) {
  return (
    <>
      <defs>
        <pattern id={name} width={size} height={size} patternUnits="userSpaceOnUse" x={gx} y={gy}>
          <path d={`M0 0H${size}M0 0V${size}`} stroke={`var(--color-${name})`} fill="none" />
        </pattern>
      </defs>
      <rect width={width} height={height} fill={`url(#${name})`} />
    </>
  );
}

/** All lines of a job, drawn at once. Places nearer to one another than a pixel are one. */
const ManyLines = memo(
  function ManyLines({ shown, scale, tx, ty }: Drawn) {
    const canvas = useRef<HTMLCanvasElement>(null);
    const drawn = useRef<Drawn | null>(null);
    useLayoutEffect(() => {
      const element = canvas.current;
      // Drawn by the processor it is part of the page's own painting; a drawing of its own would be laid over with each frame.
      const pen = element?.getContext("2d", { willReadFrequently: true });
      if (!element || !pen) return;
      // As wide as the screen: the sheet's right edge comes and goes with the card, and the lines stay as they are.
      const wide = Math.max(window.screen.width, window.innerWidth);
      const high = Math.max(window.screen.height, window.innerHeight);
      const now = { shown, scale, tx, ty };
      let lines = shown.job.lines ?? [];
      if (drawn.current && sameView(drawn.current, now) && beginsAs(drawn.current.shown, shown)) {
        lines = lines.slice(drawn.current.shown.job.lines?.length ?? 0);
      } else {
        const dots = window.devicePixelRatio || 1;
        element.width = wide * dots;
        element.height = high * dots;
        element.style.width = `${wide}px`;
        element.style.height = `${high}px`;
        pen.scale(dots, dots);
        pen.strokeStyle = colour("chalk-quiet");
        pen.lineWidth = 1.2;
        pen.lineJoin = "round";
      }
      drawn.current = now;
      for (const line of lines) {
        const { points, box } = pathOf(shown, line);
        if (!inSight(box, { scale, tx, ty, wide, high })) continue;
        // Each by itself: one path of them all would have every crossing of any two looked for.
        pen.beginPath();
        trace(pen, points, now);
        pen.stroke();
      }
    });
    return <canvas ref={canvas} aria-hidden className="pointer-events-none absolute top-0 left-0" />;
  },
  (before, now) =>
    sameView(before, now) &&
    before.shown.job.lines?.length === now.shown.job.lines?.length &&
    beginsAs(before.shown, now.shown),
);

interface View {
  scale: number;
  tx: number;
  ty: number;
}

interface Drawn extends View {
  shown: JobShown;
}

const sameView = (a: View, b: View) => a.scale === b.scale && a.tx === b.tx && a.ty === b.ty;

/** Tell whether the lines of a job begin with those of another as they are drawn, whatever they are called. */
function beginsAs(before: JobShown, now: JobShown): boolean {
  const [a, b] = [before.job.lines ?? [], now.job.lines ?? []];
  if (a === b && before.lines === now.lines) return true;
  if (a.length > b.length) return false;
  return a.every((line, i) => {
    const other = b[i] as Line;
    if (line === other && !before.coming) return true;
    const [from, to] = [pathOf(before, line).points, pathOf(now, other).points];
    return from === to || (from.length === to.length && from.every((point, k) => samePlace(point, to[k] as Point3)));
  });
}

const samePlace = (a: Point3, b: Point3) => a[0] === b[0] && a[1] === b[1];

function inSight(
  [left, bottom, right, top]: Path["box"],
  { scale, tx, ty, wide, high }: View & { wide: number; high: number },
): boolean {
  return tx + right * scale >= 0 && tx + left * scale <= wide && ty - bottom * scale >= 0 && ty - top * scale <= high;
}

function trace(pen: CanvasRenderingContext2D, points: readonly Point3[], { scale, tx, ty }: View) {
  let [px, py] = [Number.NaN, Number.NaN];
  points.forEach(([x, y], i) => {
    const [sx, sy] = [tx + x * scale, ty - y * scale];
    if (i === 0) pen.moveTo(sx, sy);
    else if (i < points.length - 1 && Math.abs(sx - px) < 1 && Math.abs(sy - py) < 1) return;
    else pen.lineTo(sx, sy);
    [px, py] = [sx, sy];
  });
}
