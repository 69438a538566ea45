/** A line being drawn: the legs so far and the next one. */
import type { Point3 } from "../api/client";
import type { View } from "../sheet/elevation/plane";
import { type Frame, toSheet } from "../sheet/plan/frame";
import { formatAngle, formatLength } from "../ui/figures";
import { useUnits } from "../window/job";
import { withPoint } from "./draft";
import { turnTo } from "./snap";
import { useDraftWalk, useWalk } from "./walking";

interface Props {
  frame: Frame;
  width: number;
  height: number;
  view: View;
  upright: boolean;
  pointer: { point: [number, number]; what: string } | null;
}

export function Draft({ frame, width, height, view, upright, pointer }: Props) {
  const units = useUnits();
  const { draft, walk, end, heading } = useDraftWalk();
  const on = (point: readonly number[]) => toSheet(frame, width, height, point[0] ?? 0, point[1] ?? 0);
  const flat = (point: readonly number[]) => on(view.to(point as Point3));
  // A curve is worked out by the service, also while the pointer still looks for its end.
  const there = pointer && view.from(Math.round(pointer.point[0] * 10) / 10, Math.round(pointer.point[1] * 10) / 10, 0);
  const moved = end && there && Math.hypot(...end.map((value, i) => value - (there[i] ?? 0))) > 1;
  const curving =
    draft?.start && there && moved && draft.mode !== "straight" && !(draft.mode === "bulge" && !draft.via);
  const tried = curving && draft ? withPoint(draft, there) : null;
  const { data: ahead } = useWalk(tried ? tried.steps.join(", ") : "", draft?.start ?? null);
  if (!draft) return null;
  const path = walk ? (walk.path as Point3[]) : draft.start ? [draft.start] : [];
  const corners = draft.start ? [draft.start, ...(walk?.line.legs.map((leg) => leg.to as Point3) ?? [])] : [];
  const passes = draft.curve.slice(0, -1).map((one) => one.at);
  const next = pointer && on(pointer.point);
  const last = end && view.to(end);
  const length = last && pointer ? Math.hypot(pointer.point[0] - last[0], pointer.point[1] - last[1]) : 0;
  const turn = last && pointer && heading !== null && !upright ? turnTo(last, heading, ...pointer.point) : null;
  const steep = last && pointer ? Math.atan2(pointer.point[1] - last[1], pointer.point[0] - last[0]) : 0;
  return (
    <g pointerEvents="none">
      {tried && ahead && (
        <path
          d={`M${(ahead.path as Point3[]).map((p) => flat(p).join(" ")).join("L")}`}
          fill="none"
          stroke="var(--color-chalk)"
          strokeWidth={1.6}
          strokeDasharray="6 4"
        />
      )}
      <path
        d={path.length ? `M${path.map((p) => flat(p).join(" ")).join("L")}` : ""}
        fill="none"
        stroke="var(--color-chalk)"
        strokeWidth={2.4}
      />
      {[...corners, ...passes].map((point, i) => {
        const [x, y] = flat(point);
        return (
          <rect
            key={i}
            x={x - 3.5}
            y={y - 3.5}
            width={7}
            height={7}
            fill="var(--color-white)"
            stroke="var(--color-chalk)"
            strokeWidth={1.5}
          />
        );
      })}
      {walk?.legs.map((leg, i) => {
        const [a, b] = [corners[leg.leg], corners[leg.leg + 1]];
        if (!a || !b || leg.rounding) return null;
        const [x, y] = flat([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2]);
        return (
          <Words key={i} x={x} y={y - 8} middle className="fill-chalk-deep">
            {formatLength(leg.end - leg.begin, units)}
            {leg.radius !== null && ` R ${formatLength(leg.radius ?? 0, units)}`}
          </Words>
        );
      })}
      {draft.via && (
        <circle
          cx={flat(draft.via)[0]}
          cy={flat(draft.via)[1]}
          r={4}
          fill="var(--color-white)"
          stroke="var(--color-wax)"
        />
      )}
      {next && (
        <>
          {last && !tried && (
            <path
              d={`M${on(last).join(" ")}L${next.join(" ")}`}
              stroke="var(--color-chalk)"
              strokeWidth={1.6}
              strokeDasharray="6 4"
            />
          )}
          <circle cx={next[0]} cy={next[1]} r={5} fill="none" stroke="var(--color-wax)" strokeWidth={1.6} />
          {last && (
            <Words x={next[0] + 12} y={next[1] - 10} className="fill-wax-deep">
              {formatLength(length, units)}
              {upright && ` · ${formatAngle((steep * 180) / Math.PI)} up`}
              {turn !== null &&
                draft.mode === "straight" &&
                ` · ${formatAngle(Math.abs(turn))} ${turn >= 0 ? "right" : "left"}`}
            </Words>
          )}
          {pointer.what && pointer.what !== "grid" && (
            <Words x={next[0] + 12} y={next[1] + 16} className="fill-pencil">
              {pointer.what}
            </Words>
          )}
        </>
      )}
    </g>
  );
}

function Words({
  x,
  y,
  middle,
  className,
  children,
}: {
  x: number;
  y: number;
  middle?: boolean;
  className: string;
  children: React.ReactNode;
}) {
  return (
    <text
      x={x}
      y={y}
      textAnchor={middle ? "middle" : "start"}
      fontSize={12.5}
      className={`halo ${`figure ${className}`}`}
    >
      {children}
    </text>
  );
}
