/** A new outline drawn on the desk: points clicked, or typed by length and direction; the first point closes it. */
import { useContext, useRef, useState } from "react";
import { type Edit, problemOf } from "../api/client";
import { Button } from "../ui/choices";
import { readLength } from "../ui/fields";
import { formatAngle, formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { JobId, useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { type DeskFrame, inDrawing, onDesk, type Spot, snapped } from "./frame";
import { Paper } from "./Paper";

/** How much of the drawing the desk shows before there is anything, mm. */
const HIGH = 200;

export function NewOutline() {
  const shown = useShown();
  const units = useUnits();
  const job = useContext(JobId);
  const { make } = useChanges();
  const set = useWindow((state) => state.set);
  const points = useWindow((state) => state.outline) ?? [];
  const [ref, size, element] = useSize<SVGSVGElement>();
  const [pointer, setPointer] = useState<{ at: Spot; with: Spot[] } | null>(null);
  const [wrong, setWrong] = useState("");
  const [typed, setTyped] = useState(["", ""]);
  const field = useRef<HTMLInputElement>(null);
  const scale = Math.max(0.5, (size.height - 120) / HIGH);
  const frame: DeskFrame = { scale, left: size.width / 2 - 40 * scale, foot: size.height - 90, x: 0, y: 0 };
  const put = (outline: Spot[]) => {
    set({ outline });
    setWrong("");
  };

  const finish = async () => {
    const [start, ...rest] = points;
    if (!start || points.length < 3) {
      setWrong("An outline needs three points at least.");
      return;
    }
    const outline = { start, edges: [...rest, start].map((to) => ({ kind: "straight", to })) };
    const across = points.map(([x]) => x);
    const up = points.map(([, y]) => y);
    const section = {
      name: `Section ${(shown.job.sections?.length ?? 0) + 1}`,
      outline,
      width: Math.max(...across) - Math.min(...across),
      height: Math.max(...up) - Math.min(...up),
    };
    const { problem } = await make([{ kind: "add_section", section } as unknown as Edit], (ids) => {
      set({ outline: null, selected: ids, view: "section" });
    });
    if (!problem) return;
    setWrong(problem.detail);
    set({ problem: null });
  };
  const isFirst = ([x, y]: Spot) => {
    const [fx, fy] = points[0] ?? [Number.NaN, Number.NaN];
    return points.length > 2 && Math.hypot(x - fx, y - fy) * scale < 8;
  };
  const spot = (event: React.PointerEvent) => {
    const box = (element as SVGSVGElement).getBoundingClientRect();
    const at = inDrawing(frame, event.clientX - box.left, event.clientY - box.top);
    return event.altKey ? { at, with: [] } : snapped(frame, null, at, points);
  };
  const take = async () => {
    const [length = "", direction = ""] = typed;
    if (!length.trim()) {
      await finish();
      return;
    }
    try {
      const last = points.at(-1);
      const mm = await readLength(length, units.system ?? "mm", job);
      if (!last) {
        // The first is typed by its place.
        put([[mm, direction.trim() ? await readLength(direction, units.system ?? "mm", job) : 0]]);
      } else {
        if (mm <= 0) throw new Error("An edge needs a length of more than nothing.");
        const angle = Number(direction.replace("°", "").replace("−", "-").replace(",", ".") || "0");
        if (!Number.isFinite(angle))
          throw new Error(`“${direction}” is not a direction: type degrees from level, 90 for straight up.`);
        const turn = (angle * Math.PI) / 180;
        const round = (value: number) => Math.round(value * 1e9) / 1e9;
        put([...points, [round(last[0] + mm * Math.cos(turn)), round(last[1] + mm * Math.sin(turn))]]);
      }
      setTyped(["", ""]);
      field.current?.focus();
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
  };
  const on = points.map((point) => onDesk(frame, point));
  const next = pointer && onDesk(frame, pointer.at);
  const last = points.at(-1);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  return (
    <div className="relative h-full">
      <svg
        ref={ref}
        className="size-full cursor-crosshair touch-none"
        role="img"
        aria-label="New outline"
        onPointerMove={(event) => setPointer(spot(event))}
        onPointerLeave={() => setPointer(null)}
        onPointerUp={(event) => {
          const { at } = spot(event);
          if (isFirst(at)) void finish();
          else if (!last || Math.hypot(at[0] - last[0], at[1] - last[1]) > 1e-6) put([...points, at]);
          field.current?.focus();
        }}
      >
        <Paper frame={frame} height={size.height - 50} />
        {on.length > 1 && (
          <path
            d={`M${on.join("L")}`}
            fill={on.length > 2 ? "var(--color-timber)" : "none"}
            fillOpacity={0.4}
            stroke="var(--color-chalk)"
            strokeWidth={2.2}
          />
        )}
        {next && on.length > 0 && (
          <path d={`M${on.at(-1)}L${next}`} stroke="var(--color-chalk)" strokeDasharray="5 4" strokeWidth={1.4} />
        )}
        {pointer?.with.map((other, i) => (
          <path
            key={i}
            d={`M${onDesk(frame, other)}L${next}`}
            stroke="var(--color-chalk)"
            strokeDasharray="2 4"
            strokeWidth={0.8}
          />
        ))}
        {on.map(([x, y], i) => (
          <rect
            key={i}
            x={x - (i ? 3.5 : 5.5)}
            y={y - (i ? 3.5 : 5.5)}
            width={i ? 7 : 11}
            height={i ? 7 : 11}
            fill="var(--color-white)"
            stroke="var(--color-chalk)"
            strokeWidth={1.5}
          />
        ))}
        {next && last && pointer && (
          <text x={next[0] + 14} y={next[1] - 10} fontSize={13} className="halo figure fill-chalk-deep">
            {formatLength(Math.hypot(pointer.at[0] - last[0], pointer.at[1] - last[1]), fine)} ·{" "}
            {formatAngle((Math.atan2(pointer.at[1] - last[1], pointer.at[0] - last[0]) * 180) / Math.PI)}
          </text>
        )}
        {!points.length && (
          <text x={size.width / 2} y={70} textAnchor="middle" fontSize={15} className="fill-pencil">
            Click the points of the outline; the first again closes it
          </text>
        )}
      </svg>
      <form
        className="absolute inset-x-0 bottom-0 flex items-center gap-3 border-rule border-t bg-bench px-3.5 py-2"
        onSubmit={(event) => event.preventDefault()}
        onKeyDown={(event) => {
          if (event.key === "Enter" && event.target instanceof HTMLInputElement) void take();
          if (event.key === "Backspace" && !typed.some(Boolean) && points.length) {
            event.preventDefault();
            put(points.slice(0, -1));
          }
        }}
      >
        <span className="font-medium">{points.length ? `Edge ${points.length}` : "First point"}</span>
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
        <Button onClick={() => put(points.slice(0, -1))} disabled={!points.length}>
          Step back
        </Button>
        <span className="flex-1 text-red text-sm" role={wrong ? "alert" : undefined}>
          {wrong}
        </span>
        <Button onClick={() => set({ outline: null, view: useWindow.getState().drawing })}>Cancel</Button>
        <Button strong disabled={points.length < 3} onClick={() => void finish()}>
          Close the outline
        </Button>
      </form>
    </div>
  );
}
