/** Two places of a picture on the desk, picked to set it to scale; it takes the clicks of the desk meanwhile. */
import type { Edit } from "../api/client";
import { useChanges } from "../window/job";
import { usePart } from "../window/store";
import { type DeskFrame, inDrawing, onDesk, type Spot } from "./frame";

export function ScalePicking({ frame, size }: { frame: DeskFrame; size: { width: number; height: number } }) {
  const { edit } = useChanges();
  const { scaling, set } = usePart("scaling", "set");
  if (!scaling) return null;
  const first = scaling.first && onDesk(frame, scaling.first);
  const pick = (event: React.PointerEvent) => {
    event.stopPropagation();
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const at: Spot = inDrawing(frame, event.clientX - box.left, event.clientY - box.top);
    if (!scaling.first) {
      set({ scaling: { ...scaling, first: at } });
      return;
    }
    set({ scaling: null });
    const { picture, length } = scaling;
    void edit([{ kind: "scale_picture", picture, a: scaling.first, b: at, length } as unknown as Edit]);
  };
  return (
    <g>
      <rect
        {...size}
        fill="transparent"
        className="cursor-crosshair"
        onPointerDown={(event) => event.stopPropagation()}
        onPointerUp={pick}
      />
      <text x={size.width / 2} y={40} textAnchor="middle" fontSize={15} className="halo fill-chalk-deep font-medium">
        Two places in the picture {scaling.words} apart: {scaling.first ? "… and the second" : "the first …"}
      </text>
      {first && <circle cx={first[0]} cy={first[1]} r={6} fill="none" stroke="var(--color-chalk)" strokeWidth={1.8} />}
    </g>
  );
}
