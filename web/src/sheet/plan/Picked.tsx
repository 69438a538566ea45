/** Places being picked in the drawing, the strip that says what for, and the dimension asked between two. */
import type { Point3 } from "../../api/client";
import { Button } from "../../ui/choices";
import { usePart, useWindow } from "../../window/store";
import type { View } from "../elevation/plane";
import { type Frame, toSheet } from "./frame";

interface Props {
  frame: Frame;
  width: number;
  height: number;
  view: View;
  pointer: { point: [number, number]; what: string } | null;
}

export function Picked({ frame, width, height, view, pointer }: Props) {
  const picking = useWindow((state) => state.picking);
  if (!picking) return null;
  const on = (point: readonly number[]) => toSheet(frame, width, height, point[0] ?? 0, point[1] ?? 0);
  const spots = picking.spots.map((spot) => on(view.to(spot.point as Point3)));
  const next = pointer && on(pointer.point);
  const last = spots.at(-1);
  return (
    <g className="text-wax" stroke="currentColor" fill="none" pointerEvents="none">
      {spots.map(([x, y], i) => (
        <path key={i} d={`M${x - 6} ${y}h12M${x} ${y - 6}v12`} strokeWidth={1.8} />
      ))}
      {next && (
        <>
          {last && <path d={`M${last.join(" ")}L${next.join(" ")}`} strokeDasharray="5 4" />}
          <circle cx={next[0]} cy={next[1]} r={5.5} strokeWidth={1.6} />
          {pointer.what && (
            <text x={next[0] + 11} y={next[1] + 17} fontSize={12} className="halo fill-pencil">
              {pointer.what}
            </text>
          )}
        </>
      )}
    </g>
  );
}

/** The dimension that was asked, drawn between its two places. */
export function AskedMarks({ frame, width, height, view }: Omit<Props, "pointer">) {
  const asked = useWindow((state) => state.asked);
  if (!asked) return null;
  const spots = asked.map((spot) => {
    const [x, y] = view.to(spot.point as Point3);
    return toSheet(frame, width, height, x, y);
  });
  return (
    <g className="text-wax" stroke="currentColor" fill="none" pointerEvents="none">
      <path d={`M${spots.map((spot) => spot.join(" ")).join("L")}`} strokeDasharray="5 4" strokeWidth={1.4} />
      {spots.map(([x, y], i) => (
        <path key={i} d={`M${x - 6} ${y}h12M${x} ${y - 6}v12`} strokeWidth={1.8} />
      ))}
    </g>
  );
}

export function PickingStrip() {
  const { picking, set } = usePart("picking", "set");
  if (!picking) return null;
  return (
    <div className="absolute inset-x-0 bottom-0 flex items-center gap-3 border-rule border-t bg-bench px-3.5 py-1.5 text-sm">
      <b role="status">{picking.ask[picking.spots.length]}</b>
      <span className="text-pencil">
        {picking.ask.length > 1 && `${picking.spots.length + 1} of ${picking.ask.length} · `}click in the drawing
      </span>
      <span className="flex-1" />
      <Button onClick={() => set({ picking: null })}>Cancel</Button>
    </div>
  );
}
