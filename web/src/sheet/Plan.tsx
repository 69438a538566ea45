/** The sheet in plan: lines, runs, rows, dimensions; selecting, moving points, drawing a line. */
import { useEffect, useMemo, useRef, useState } from "react";
import type { Edit, Point3 } from "../api/client";
import { useSize } from "../ui/fields";
import { formatLength } from "../ui/figures";
import { useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { lineOf, linePoints, nearestOn, pathOf, runById } from "../window/things";
import { Draft, Typed } from "./Draft";
import { boxOf, type Frame, fitPoints, fitted, gridStep, toJob, toSheet } from "./frame";
import { PlanMarks } from "./PlanMarks";
import { PlanThings } from "./PlanThings";
import { snap } from "./snap";

export type Drag =
  | { kind: "pan"; x: number; y: number; frame: Frame; moved: boolean }
  | { kind: "point"; line: string; index: number; start: Point3; moved: boolean }
  | { kind: "insert"; line: string; leg: number; start: Point3; moved: boolean }
  | { kind: "facing"; runs: string[]; moved: boolean };

/** Width of the card, px. */
const CARD = 306;

export function Plan() {
  const shown = useShown();
  const units = useUnits();
  const { edit, preview } = useChanges();
  const [ref, size, element] = useSize<SVGSVGElement>();
  const [frame, setFrame] = useState<Frame | null>(null);
  const drag = useRef<Drag | null>(null);
  const pending = useRef<Edit | null>(null);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const { selected, select, toggle, draft, pointAt, pickPoint, fit, look, set } = useWindow();
  const { width, height } = size;
  const foot = draft ? 56 : 0;

  // The card comes and goes at the right of the sheet, and the drawing does not move under the hand
  // when it does. So what is fitted or brought to the middle is laid out beside the card from the
  // first, whether it is there already, is just coming (the element knows before the state does), or not yet.
  const carded = selected.length > 0;
  const room = (scale: number) => {
    const now = element?.getBoundingClientRect().width ?? width;
    const free = Math.max(200, carded ? now : now - CARD);
    return { free, shift: (width - free) / 2 / scale };
  };
  const roomNow = useRef(room);
  roomNow.current = room;
  const fittedFor = useRef(-1);
  const before = useRef(0);
  useEffect(() => {
    if (!width) return;
    const by = before.current ? width - before.current : 0;
    before.current = width;
    if (fittedFor.current !== fit) {
      // When the sheet first has a size, and whenever it is asked for.
      fittedFor.current = fit;
      const box = boxOf(fitPoints(shown, fit ? useWindow.getState().selected : []));
      const found = fitted(box, roomNow.current(1).free, height);
      setFrame({ ...found, x: found.x + roomNow.current(found.scale).shift });
    } else if (by) {
      setFrame((old) => old && { ...old, x: old.x + by / 2 / old.scale });
    }
  }, [width, height, fit, shown]);
  useEffect(() => {
    if (!look || !width) return;
    setFrame((old) => {
      const scale = Math.max(old?.scale ?? 0, 0.25);
      return { x: look[0] + roomNow.current(scale).shift, y: look[1], scale };
    });
    set({ look: null });
  }, [look, width, set]);

  // React listens to wheels passively; the sheet must keep the page from scrolling.
  useEffect(() => {
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      zoom(Math.exp(-event.deltaY * 0.0015), event.clientX - box.left, event.clientY - box.top);
    };
    const zoom = (times: number, px: number, py: number) => {
      setFrame((old) => {
        if (!old) return old;
        const [x, y] = toJob(old, box().width, box().height, px, py);
        const scale = Math.min(20, Math.max(1e-6, old.scale * times));
        const by = old.scale / scale;
        return { x: x + (old.x - x) * by, y: y + (old.y - y) * by, scale };
      });
    };
    const box = () => element.getBoundingClientRect();
    const press = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLElement && event.target.matches("input")) return;
      if (event.key === "+" || event.key === "=") zoom(1.25, box().width / 2, box().height / 2);
      else if (event.key === "-") zoom(0.8, box().width / 2, box().height / 2);
      else if (event.target === element && event.key.startsWith("Arrow")) {
        event.preventDefault();
        const [dx = 0, dy = 0] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
          event.key
        ] ?? [0, 0];
        setFrame((old) => old && { ...old, x: old.x + (dx * 60) / old.scale, y: old.y + (dy * 60) / old.scale });
      }
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener("keydown", press);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", press);
    };
  }, [element]);

  const snapTo = useMemo(() => {
    const points = (shown.job.lines ?? []).flatMap(linePoints);
    const middles = (shown.job.lines ?? []).flatMap((line) => {
      const around = linePoints(line);
      const path = line.closed ? [...around, around[0] as Point3] : around;
      return path.slice(1).map((b, i) => {
        const a = path[i] as Point3;
        return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2] as Point3;
      });
    });
    return { points, middles };
  }, [shown.job.lines]);

  if (!frame || !width) return <svg ref={ref} className="size-full" aria-label="Plan" />;

  const at = (event: React.PointerEvent): [number, number] => {
    const box = element?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  const jobAt = (event: React.PointerEvent) => toJob(frame, width, height, ...at(event));
  const snapped = (event: React.PointerEvent, without?: Point3) => {
    const [x, y] = jobAt(event);
    if (event.altKey) return { point: [x, y] as [number, number], what: "" };
    const points = without
      ? snapTo.points.filter((p) => p !== without && (p[0] !== without[0] || p[1] !== without[1]))
      : snapTo.points;
    return snap(x, y, {
      points,
      middles: snapTo.middles,
      draft: draft ?? [],
      grid: gridStep(frame.scale, units.system ?? "mm", 9),
      reach: 9 / frame.scale,
    });
  };

  const down = (event: React.PointerEvent) => {
    if (event.button === 2) return;
    const target = event.target as SVGElement;
    const point = target.dataset.point;
    const insert = target.dataset.insert;
    const line = target.dataset.line;
    element?.setPointerCapture(event.pointerId);
    if (event.button === 1 || (!point && !insert && !target.dataset.facing)) {
      const [x, y] = at(event);
      drag.current = { kind: "pan", x, y, frame, moved: false };
    } else if (target.dataset.facing) {
      drag.current = { kind: "facing", runs: target.dataset.facing.split(" "), moved: false };
    } else if (line && point !== undefined) {
      const start = linePoints(lineOf(shown, line) as never)[Number(point)] as Point3;
      drag.current = { kind: "point", line, index: Number(point), start, moved: false };
      if (useWindow.getState().selected[0]?.[0] !== "L") select([line]);
      pickPoint(Number(point));
    } else if (line && insert !== undefined) {
      const [x, y] = jobAt(event);
      drag.current = { kind: "insert", line, leg: Number(insert), start: [x, y, 0], moved: false };
    }
  };

  const move = (event: React.PointerEvent) => {
    const [px, py] = at(event);
    const now = drag.current;
    if (!now) {
      if (draft) setPointer(snapped(event).point);
      else hover(event);
      return;
    }
    if (now.kind === "pan") {
      if (Math.hypot(px - now.x, py - now.y) > 3) now.moved = true;
      if (now.moved)
        setFrame({
          ...now.frame,
          x: now.frame.x - (px - now.x) / frame.scale,
          y: now.frame.y + (py - now.y) / frame.scale,
        });
      return;
    }
    now.moved = true;
    const { point } = snapped(event, now.kind === "point" ? now.start : undefined);
    if (now.kind === "point") {
      pending.current = {
        kind: "move_vertex",
        line: now.line,
        index: now.index,
        to: [point[0], point[1], now.start[2]],
      };
    } else if (now.kind === "insert") {
      const path = lineOf(shown, now.line);
      pending.current = {
        kind: "insert_vertex",
        line: now.line,
        leg: now.leg,
        at: [point[0], point[1], path?.start[2] ?? 0],
      };
    } else {
      pending.current = {
        kind: "set_placing",
        runs: now.runs,
        changes: { facing: { kind: "toward", point: [point[0], point[1], 0] } },
      } as Edit;
    }
    preview([pending.current]);
  };

  /** The line nearest to a place in the job, within a few pixels. */
  const nearestLine = (x: number, y: number): string | undefined => {
    let best: { id: string; away: number } | undefined;
    for (const line of shown.job.lines ?? []) {
      const { away } = nearestOn(pathOf(shown, line), x, y);
      if (away * frame.scale < 8 && away < (best?.away ?? Number.POSITIVE_INFINITY)) best = { id: line.id, away };
    }
    return best?.id;
  };

  const hover = (event: React.PointerEvent) => {
    const [x, y] = jobAt(event);
    const line = lineOf(shown, selected[0]);
    const near = (one: typeof line) => {
      if (!one) return null;
      const found = nearestOn(pathOf(shown, one), x, y);
      return found.away * frame.scale < 26 ? { line: one.id, chainage: found.chainage } : null;
    };
    pointAt(near(line));
  };

  const up = (event: React.PointerEvent) => {
    const now = drag.current;
    drag.current = null;
    if (!now) return;
    if (now.kind !== "pan") {
      const made = pending.current;
      pending.current = null;
      if (now.moved && made) void edit([made]).then((problem) => problem && preview(null));
      return;
    }
    if (now.moved || event.button === 1) return;
    if (draft) {
      const { point, what } = snapped(event);
      if (what === "start: closes") set({ draft: [...draft, draft[0] as Point3] });
      else {
        const last = draft.at(-1);
        if (!last || Math.hypot(last[0] - point[0], last[1] - point[1]) > 1e-3) {
          set({ draft: [...draft, [point[0], point[1], draft[0]?.[2] ?? 0]] });
        }
      }
      return;
    }
    const target = document.elementFromPoint(event.clientX, event.clientY) as SVGElement | null;
    const id = target?.dataset.pick ?? nearestLine(...jobAt(event));
    if (!id) select([]);
    else if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(id);
    else select([id], target?.dataset.piece === undefined ? null : Number(target.dataset.piece));
  };

  const step = gridStep(frame.scale, units.system ?? "mm");
  const [gx, gy] = toSheet(frame, width, height, 0, 0);
  return (
    <>
      <svg
        ref={ref}
        role="application"
        aria-label="Plan"
        tabIndex={0}
        className={`size-full touch-none select-none outline-none focus-visible:outline-2 focus-visible:outline-chalk focus-visible:-outline-offset-2 ${draft ? "cursor-crosshair" : "cursor-default"}`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => !drag.current && pointAt(null)}
        onContextMenu={(event) => event.preventDefault()}
      >
        <defs>
          <pattern
            id="grid"
            width={step * frame.scale}
            height={step * frame.scale}
            patternUnits="userSpaceOnUse"
            x={gx}
            y={gy}
          >
            <path d={`M0 0H${step * frame.scale}M0 0V${step * frame.scale}`} stroke="#eceae2" fill="none" />
          </pattern>
        </defs>
        <rect width={width} height={height} fill="url(#grid)" />
        <PlanThings frame={frame} width={width} height={height} />
        <PlanMarks frame={frame} width={width} height={height} />
        {draft && <Draft frame={frame} width={width} height={height} pointer={pointer} />}
        <g transform={`translate(${width - 34} 24)`} className="text-pencil" stroke="currentColor" fill="none">
          <path d="M0 36V12M-5 19 0 11l5 8" strokeWidth={1.3} />
          <text textAnchor="middle" y={6} fontSize={12} stroke="none" fill="currentColor">
            N
          </text>
        </g>
      </svg>
      {draft && <Typed pointer={pointer} />}
      {!shown.job.lines?.length && !draft && <Empty />}
      <div className="figure pointer-events-none absolute left-3.5 text-pencil text-sm" style={{ bottom: 12 + foot }}>
        grid {formatLength(step, units)}
        {draft && ` · snaps to ${formatLength(gridStep(frame.scale, units.system ?? "mm", 9), units)}`}
      </div>
      {!draft && (
        <div className="pointer-events-none absolute right-3 bottom-2.5 flex gap-3 rounded-[3px] bg-paper/85 px-2 py-1 text-pencil text-sm">
          {runById(shown, selected[0]) && (
            <>
              <span>
                <kbd>H</kbd> other hand
              </span>
              <span>
                <kbd>D</kbd> next datum
              </span>
            </>
          )}
          <span>
            <kbd>N</kbd> draw a line
          </span>
          <span>
            <kbd>.</kbd> fit
          </span>
        </div>
      )}
    </>
  );
}

function Empty() {
  const { show } = useWindow();
  return (
    <div className="-translate-x-1/2 -translate-y-1/2 absolute top-1/2 left-1/2 w-[380px] rounded-[4px] border border-rule bg-paper p-5">
      <h2 className="mb-1 font-semibold text-lg">Start with the lines</h2>
      <p className="mb-3 text-pencil">
        A line is what a molding, rail, fence or row of lights follows. Draw it, or bring in a drawing and let its loose
        edges be joined.
      </p>
      <div className="flex gap-2">
        <button
          type="button"
          className="h-7 cursor-pointer rounded-[3px] bg-ink px-3 text-paper text-sm"
          onClick={() => useWindow.getState().set({ draft: [] })}
        >
          Draw a line
        </button>
        <button
          type="button"
          className="h-7 cursor-pointer rounded-[3px] border border-edge bg-paper px-3 text-sm"
          onClick={() => show("bringin")}
        >
          Bring in a drawing
        </button>
      </div>
    </div>
  );
}
