/** An outline drawn on the desk while it is no section yet: a new one, or a draft that was kept. What is wrong with it is shown at its place. */
import { type ReactNode, useContext, useMemo, useRef, useState } from "react";
import { type OutlineDrawn, problemOf } from "../api/client";
import { DeskPictures } from "../sheet/plan/PlanPictures";
import { Button } from "../ui/choices";
import { readLength } from "../ui/fields";
import { formatAngle, formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { JobId, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { FaultMarks, FaultsTold } from "./Faults";
import { type DeskFrame, inDrawing, onDesk, type Spot, snapped } from "./frame";
import { Paper } from "./Paper";
import { ScalePicking } from "./ScalePicking";
import {
  drawnPath,
  EMPTY,
  isClosed,
  type OutlineSketch,
  outlineIn,
  spotsOf,
  useFaults,
  withMoved,
  withoutPoint,
} from "./sketch";

/** How much of the drawing the desk shows before there is anything, mm. */
const HIGH = 200;

const NONE: OutlineDrawn[] = [];
const NOWHERE: Spot[] = [];

export function SketchDesk({
  sketch,
  on = null,
  room = NOWHERE,
  holes = NONE,
  put,
  finish,
  drawing,
  wrong,
  say,
  children,
}: {
  sketch: OutlineSketch;
  /** The draft it is, whose pictures lie under it, and the corners of these. */
  on?: string | null;
  room?: readonly Spot[];
  holes?: readonly OutlineDrawn[];
  put: (to: OutlineSketch) => void;
  /** What pointing at the first point does; null where that closes it as any other place would be drawn to. */
  finish: (() => void) | null;
  /** Whether clicks go on drawing. */
  drawing: boolean;
  wrong: string;
  say: (wrong: string) => void;
  children?: ReactNode;
}) {
  const units = useUnits();
  const job = useContext(JobId);
  const [ref, size, element] = useSize<SVGSVGElement>();
  const [pointer, setPointer] = useState<{ at: Spot; with: Spot[] } | null>(null);
  const [typed, setTyped] = useState(["", ""]);
  const [picked, setPicked] = useState<number | null>(null);
  const [held, setHeld] = useState<{ point: number; sketch: OutlineSketch; frame: DeskFrame } | null>(null);
  const thickened = useWindow((state) => state.thickened);
  const scaling = useWindow((state) => state.scaling !== null);
  const field = useRef<HTMLInputElement>(null);
  const now = held?.sketch ?? sketch;
  const closed = isClosed(now);
  const spots = spotsOf(now);
  const points = closed ? spots.slice(0, -1) : spots;
  const frame = held?.frame ?? sketchFrame(size, finish ? [] : [...spots, ...room]);
  const outline = useMemo(() => outlineIn(now), [now]);
  // An outline that is still drawn is open, which needs no telling.
  const faults = useFaults(outline, holes).filter((fault) => !(finish && fault.kind === "open"));
  const last = spots.at(-1);
  const at = (spot: Spot) => onDesk(frame, spot);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };

  const spot = (event: React.PointerEvent) => {
    const box = (element as SVGSVGElement).getBoundingClientRect();
    const place = inDrawing(frame, event.clientX - box.left, event.clientY - box.top);
    return event.altKey ? { at: place, with: [] } : snapped(frame, null, place, points);
  };
  const draw = (to: Spot) => {
    if (!now.start) put({ start: to, edges: [] });
    else if (!last || Math.hypot(to[0] - last[0], to[1] - last[1]) > 1e-6)
      put({ ...now, edges: [...now.edges, { kind: "straight", to }] });
  };
  const down = (event: React.PointerEvent) => {
    const point = (event.target as SVGElement).dataset.point;
    if (event.button !== 0 || point === undefined) return;
    const index = Number(point);
    // The first point of one that is drawn closes it, and is not taken hold of.
    if (index === 0 && drawing && points.length > 2) return;
    element?.setPointerCapture(event.pointerId);
    setPicked(index);
    setHeld({ point: index, sketch: now, frame });
  };
  const move = (event: React.PointerEvent) => {
    const found = spot(event);
    setPointer(found);
    if (held) setHeld({ ...held, sketch: withMoved(sketch, held.point, found.at) });
  };
  const up = (event: React.PointerEvent) => {
    if (held) {
      setHeld(null);
      if (held.sketch !== sketch) put(held.sketch);
      return;
    }
    if (!drawing || event.button !== 0) return;
    const { at: to } = spot(event);
    const first = now.start;
    const near = first && points.length > 2 && Math.hypot(to[0] - first[0], to[1] - first[1]) * frame.scale < 8;
    if (near && finish) finish();
    else draw(near ? first : to);
    field.current?.focus();
  };
  const stepBack = () => put(now.edges.length ? { ...now, edges: now.edges.slice(0, -1) } : EMPTY);
  const take = async () => {
    const [length = "", direction = ""] = typed;
    if (!length.trim()) {
      finish?.();
      return;
    }
    try {
      const mm = await readLength(length, units.system ?? "mm", job);
      if (!last) {
        // The first is typed by its place.
        draw([mm, direction.trim() ? await readLength(direction, units.system ?? "mm", job) : 0]);
      } else {
        if (mm <= 0) throw new Error("An edge needs a length greater than zero.");
        const angle = Number(direction.replace("°", "").replace("−", "-").replace(",", ".") || "0");
        if (!Number.isFinite(angle))
          throw new Error(`“${direction}” is not a direction: type degrees from level, 90 for straight up.`);
        const turn = (angle * Math.PI) / 180;
        const round = (value: number) => Math.round(value * 1e9) / 1e9;
        draw([round(last[0] + mm * Math.cos(turn)), round(last[1] + mm * Math.sin(turn))]);
      }
      setTyped(["", ""]);
      field.current?.focus();
    } catch (error) {
      say(problemOf(error).detail);
    }
  };
  const next = pointer && at(pointer.at);
  return (
    <div className="flex h-full flex-col">
      <svg
        ref={ref}
        className={`min-h-0 flex-1 touch-none select-none outline-none ${drawing ? "cursor-crosshair" : ""}`}
        role="application"
        tabIndex={0}
        aria-label={finish ? "New outline" : "Draft outline"}
        onPointerDown={down}
        onPointerMove={move}
        onPointerLeave={() => setPointer(null)}
        onPointerUp={up}
        onPointerCancel={() => setHeld(null)}
        onKeyDown={(event) => {
          if (picked === null || !points[picked]) return;
          if (event.key === "Backspace") {
            event.preventDefault();
            put(withoutPoint(now, picked));
            setPicked(null);
            return;
          }
          const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
          if (!way) return;
          event.preventDefault();
          const step = event.shiftKey ? 0.1 : 1;
          const [x, y] = points[picked] as Spot;
          const tidy = (mm: number) => Math.round(mm * 1e9) / 1e9;
          put(withMoved(now, picked, [tidy(x + (way[0] ?? 0) * step), tidy(y + (way[1] ?? 0) * step)]));
        }}
      >
        <Paper frame={frame} height={size.height} />
        {on && <DeskPictures on={on} at={at} scale={frame.scale} />}
        <path
          d={[now, ...holes].map((one) => drawnPath(one as OutlineSketch, at)).join("")}
          fill={points.length > 2 ? "var(--color-timber)" : "none"}
          fillOpacity={closed && !faults.length ? 0.9 : 0.35}
          fillRule="evenodd"
          stroke="var(--color-chalk)"
          strokeWidth={2.2}
          strokeLinejoin="round"
        />
        {drawing && !held && next && last && (
          <path d={`M${at(last)}L${next}`} stroke="var(--color-chalk)" strokeDasharray="5 4" strokeWidth={1.4} />
        )}
        {(drawing || held) &&
          pointer?.with.map((other, i) => (
            <path
              key={i}
              d={`M${at(other)}L${next}`}
              stroke="var(--color-chalk)"
              strokeDasharray="2 4"
              strokeWidth={0.8}
            />
          ))}
        {thickened && !finish && (
          <path
            d={thickened.path}
            transform={`translate(${at([0, 0])}) scale(${frame.scale} ${-frame.scale})`}
            fill="var(--color-timber)"
            fillOpacity={0.8}
            fillRule="evenodd"
            stroke="var(--color-ink)"
            strokeWidth={1.6}
            vectorEffect="non-scaling-stroke"
            pointerEvents="none"
          />
        )}
        {points.map((point, i) => {
          const [x, y] = at(point);
          const half = i || !drawing ? 4 : 5.5;
          return (
            <rect
              key={i}
              x={x - half}
              y={y - half}
              width={2 * half}
              height={2 * half}
              fill={picked === i ? "var(--color-chalk)" : "var(--color-white)"}
              stroke="var(--color-chalk)"
              strokeWidth={1.5}
              data-point={i}
              className="cursor-move"
            >
              <title>{i === 0 && drawing ? "The first point: click it to close the outline" : `Point ${i + 1}`}</title>
            </rect>
          );
        })}
        <FaultMarks faults={faults} at={at} />
        {drawing && !held && next && last && pointer && (
          <text x={next[0] + 14} y={next[1] - 10} fontSize={13} className="halo figure fill-chalk-deep">
            {formatLength(Math.hypot(pointer.at[0] - last[0], pointer.at[1] - last[1]), fine)} ·{" "}
            {formatAngle((Math.atan2(pointer.at[1] - last[1], pointer.at[0] - last[0]) * 180) / Math.PI)}
          </text>
        )}
        {!points.length && !scaling && (
          <text x={size.width / 2} y={70} textAnchor="middle" fontSize={15} className="fill-pencil">
            Click the points of the outline; the first again closes it
          </text>
        )}
        <ScalePicking frame={frame} size={size} />
      </svg>
      {finish && faults.length > 0 && (
        <div className="border-rule border-t bg-bench px-3.5 pt-2">
          <FaultsTold faults={faults} mend={(mended: OutlineDrawn) => put(mended as OutlineSketch)} />
        </div>
      )}
      <form
        className="flex items-center gap-3 border-rule border-t bg-bench px-3.5 py-2"
        onSubmit={(event) => event.preventDefault()}
        onKeyDown={(event) => {
          if (event.key === "Enter" && event.target instanceof HTMLInputElement) void take();
          if (event.key === "Backspace" && !typed.some(Boolean) && points.length) {
            event.preventDefault();
            stepBack();
          }
        }}
      >
        {drawing ? (
          <>
            <span className="whitespace-nowrap font-medium">
              {points.length ? `Edge ${points.length}` : "First point"}
            </span>
            {(points.length ? ["Length", "Direction"] : ["Across", "Up"]).map((name, i) => (
              <label key={name} className="flex items-center gap-1.5 text-pencil text-sm">
                {name}
                <input
                  ref={i === 0 ? field : undefined}
                  className="figure h-7 w-20 rounded-[3px] border border-edge bg-paper px-2 text-right text-ink"
                  value={typed[i]}
                  placeholder={name === "Direction" ? "0°" : ""}
                  autoComplete="off"
                  onChange={(event) => setTyped(typed.map((old, k) => (k === i ? event.target.value : old)))}
                />
              </label>
            ))}
            <Button onClick={stepBack} disabled={!points.length}>
              Step back
            </Button>
          </>
        ) : (
          <span className="text-pencil text-sm">Drag its points; Backspace takes out the one that is picked</span>
        )}
        <span className="flex-1 text-red text-sm" role={wrong ? "alert" : undefined}>
          {wrong}
        </span>
        {children}
      </form>
    </div>
  );
}

/** A frame in which what is drawn so far lies in the middle, with room to go on. */
function sketchFrame(size: { width: number; height: number }, spots: Spot[]): DeskFrame {
  if (spots.length < 2) {
    const scale = Math.max(0.5, (size.height - 120) / HIGH);
    return { scale, left: size.width / 2 - 40 * scale, foot: size.height - 60, x: 0, y: 0 };
  }
  const [across, up] = [spots.map(([x]) => x), spots.map(([, y]) => y)];
  const [left, low] = [Math.min(...across), Math.min(...up)];
  const [width, height] = [Math.max(...across) - left, Math.max(...up) - low];
  const scale = Math.max(0.01, Math.min((size.width - 200) / (width || 1), (size.height - 140) / (height || 1), 40));
  return {
    scale,
    left: (size.width - width * scale) / 2,
    foot: (size.height + height * scale) / 2,
    x: left,
    y: low,
  };
}
