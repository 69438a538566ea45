/** The sheet in plan, or square to an upright plane: lines, runs, rows, dimensions; selecting, moving points, drawing a line. */
import { useContext, useEffect, useMemo, useRef, useState } from "react";
import {
  answer,
  api,
  type Edit,
  type JobShown,
  type Leg,
  type PlaceFound,
  type Point3,
  problemOf,
} from "../../api/client";
import { Draft } from "../../drafting/Draft";
import { withPoint } from "../../drafting/draft";
import { Strip } from "../../drafting/Strip";
import { type Snapped, snap, snapIndex } from "../../drafting/snap";
import { inTurn, useDraftWalk, useWalkNow } from "../../drafting/walking";
import { formatLength } from "../../ui/figures";
import { useSize } from "../../ui/useSize";
import { JobId, Shown, useChanges, useShown, useUnits } from "../../window/job";
import { type Plane, usePart, useWindow } from "../../window/store";
import {
  lineById,
  lineOf,
  linePoints,
  nearestOn,
  pathOf,
  pointId,
  runById,
  runFigures,
  shapePoints,
} from "../../window/things";
import { ElevationThings } from "../elevation/ElevationThings";
import { elevationView, planView, projected, type View } from "../elevation/plane";
import { Hints } from "../Hints";
import { EmptyPlan } from "./EmptyPlan";
import { type Box, boxOf, type Frame, fitPoints, fitted, gridStep, toJob, toSheet } from "./frame";
import { Grid, Ground } from "./Ground";
import { AskedMarks, Picked, PickingStrip } from "./Picked";
import { PlanMarks } from "./PlanMarks";
import { PictureHandles } from "./PlanPictures";
import { PlanPlaces } from "./PlanPlaces";
import { PlanThings } from "./PlanThings";
import { useFrame } from "./useFrame";

type Drag =
  | { kind: "pan"; x: number; y: number; frame: Frame; moved: boolean }
  | { kind: "point"; line: string; index: number; start: Point3; moved: boolean }
  | { kind: "insert"; line: string; leg: number; moved: boolean }
  | { kind: "shape"; line: string; leg: number; index: number; start: Point3; moved: boolean }
  | { kind: "facing"; runs: string[]; moved: boolean }
  | { kind: "picture"; id: string; from: [number, number]; at: [number, number]; moved: boolean };

export function Plan() {
  const shown = useShown();
  const plane = useWindow((state) => state.plane);
  const view = useMemo(() => (plane ? elevationView(plane) : planView), [plane]);
  const seen = useMemo(() => (plane ? projected(shown, view) : null), [shown, plane, view]);
  return (
    <Shown.Provider value={seen ?? shown}>
      <Sheet key={plane ? [plane.a, plane.b].join() : "plan"} whole={shown} view={view} plane={plane} />
    </Shown.Provider>
  );
}

/** `whole` is the job as it is, where the sheet shows it as seen on a plane. */
function Sheet({ whole, view, plane }: { whole: JobShown; view: View; plane: Plane | null }) {
  const upright = plane !== null;
  const shown = useShown();
  const units = useUnits();
  const job = useContext(JobId);
  const walkNow = useWalkNow();
  const { edit, preview } = useChanges();
  const [ref, { width, height }, element] = useSize<SVGSVGElement>();
  const [frame, setFrame] = useFrame(element, width, height, view);
  const drag = useRef<Drag | null>(null);
  const pending = useRef<Edit | null>(null);
  const [pointer, setPointer] = useState<Snapped | null>(null);
  const { selected, select, toggle, pointAt, pickPoint, pickCorner, set, picking } = usePart(
    "selected",
    "select",
    "toggle",
    "pointAt",
    "pickPoint",
    "pickCorner",
    "set",
    "picking",
  );
  const { draft, walk, end, heading } = useDraftWalk();
  const foot = draft ? 56 : picking ? 40 : 0;

  // A leg that is typed may end out of sight: then all that is drawn is brought into it.
  const followed = useRef("");
  useEffect(() => {
    const now = end?.join() ?? "";
    if (now === followed.current || !end || !frame || !width) return;
    followed.current = now;
    const [across, up] = view.to(end);
    const [x, y] = toSheet(frame, width, height, across, up);
    if (x >= 0 && x <= width && y >= 0 && y <= height - foot) return;
    const drawn = [draft?.start ?? end, ...(walk?.line.legs ?? []).map((leg) => leg.to as Point3), end];
    const lines = shown.job.lines?.length ? fitPoints(shown, []) : [];
    setFrame(fitted(boxOf([...drawn, ...lines].map((point) => view.to(point))), width, height, 110));
  }, [end, frame, width, height, foot, view, draft, walk, shown, setFrame]);

  const snapTo = useMemo(() => {
    let index: ReturnType<typeof snapIndex> | undefined;
    return (x: number, y: number, reach: number) => {
      // Put in order only when something is drawn: most changes of a job come from elsewhere.
      index ??= snapIndex((shown.job.lines ?? []).map((line) => ({ line, path: pathOf(shown, line) })));
      return index(x, y, reach);
    };
  }, [shown]);

  if (!frame || !width) return <svg ref={ref} className="size-full" aria-label="Plan" />;

  const at = (event: React.PointerEvent): [number, number] => {
    const box = element?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  const jobAt = (event: React.PointerEvent) => toJob(frame, width, height, ...at(event));
  const snapped = (event: React.PointerEvent, without?: Point3) => {
    const [x, y] = jobAt(event);
    if (event.altKey) return { point: [x, y] as [number, number], what: "" };
    const drawn = walk ? walk.line.legs.map((leg) => view.to(leg.to as Point3)) : [];
    const reach = 9 / frame.scale;
    const near = snapTo(x, y, reach);
    const points = without
      ? near.points.filter((p) => p !== without && (p[0] !== without[0] || p[1] !== without[1]))
      : [...near.points, ...drawn.slice(0, -1)];
    return snap(x, y, {
      ...near,
      // A point that is moved does not snap to its own line.
      lines: without ? [] : near.lines,
      points,
      start: draft?.start ? view.to(draft.start) : null,
      last: end ? view.to(end) : null,
      heading: upright ? null : heading,
      touches: !upright,
      canClose: (walk?.line.legs.length ?? 0) > 1,
      grid: gridStep(frame.scale, units.system ?? "mm", 9),
      reach,
      say: (mm) => formatLength(mm, units),
    });
  };

  /** Draw the next point of the draft; on another line it goes exactly there. */
  const drawTo = ({ point, what, on }: Snapped) =>
    inTurn(async () => {
      const now = useWindow.getState().draft;
      if (!now) return;
      if (what === "start: closes") {
        set({ draft: { ...now, steps: [...now.steps, "home"], curve: [] } });
        return;
      }
      const flat = [...point] as [number, number];
      if (on) {
        const from = on.touching ? end : null;
        const body = { line: on.line, chainage: on.chainage, touched_from: from };
        try {
          const found = await answer<PlaceFound>(
            api.POST("/api/jobs/{id}/place", { params: { path: { id: job } }, body }),
          );
          [flat[0], flat[1]] = view.to(found.point as Point3);
        } catch (failed) {
          // Where no straight touches there after all, the place clicked stays.
          if (problemOf(failed).code !== "touch") throw failed;
        }
      }
      const last = (await walkNow(now))?.end ?? now.start;
      const place = view.from(flat[0], flat[1], upright ? 0 : now.start ? now.height : 0);
      if (!last || Math.hypot(...last.map((value, i) => value - (place[i] ?? 0))) > 1e-3)
        set({ draft: withPoint(now, place) });
    }).catch((failed) => set({ problem: problemOf(failed) }));

  const down = (event: React.PointerEvent) => {
    if (event.button === 2) return;
    const target = event.target as SVGElement;
    const { point, insert, shape, leg, line, facing, picture } = target.dataset;
    element?.setPointerCapture(event.pointerId);
    const [x, y] = at(event);
    const grabs = (point ?? insert ?? shape) !== undefined || facing || (picture && !draft && !picking);
    if (event.button === 1 || !grabs) {
      drag.current = { kind: "pan", x, y, frame, moved: false };
    } else if (facing) {
      drag.current = { kind: "facing", runs: facing.split(" "), moved: false };
    } else if (picture) {
      const found = shown.job.pictures?.find((one) => one.id === picture);
      drag.current = {
        kind: "picture",
        id: picture,
        from: jobAt(event),
        at: [found?.east ?? 0, found?.north ?? 0],
        moved: false,
      };
    } else if (line && point !== undefined) {
      const start = linePoints(lineOf(shown, line) as never)[Number(point)] as Point3;
      drag.current = { kind: "point", line, index: Number(point), start, moved: false };
      // Of a run the corner there is picked, where it is only clicked.
      if (!ofRun(line)) {
        if (lineById(shown, selected[0])?.id !== line) select([line]);
        pickPoint(Number(point));
      }
    } else if (line && shape !== undefined) {
      const start = shapePoints(lineOf(shown, line)?.legs[Number(leg)] as Leg)[Number(shape)] as Point3;
      drag.current = { kind: "shape", line, leg: Number(leg), index: Number(shape), start, moved: false };
    } else if (line && insert !== undefined) {
      drag.current = { kind: "insert", line, leg: Number(insert), moved: false };
    }
  };

  const idOf = (line: string, index: number) => pointId(lineOf(whole, line), index);

  const move = (event: React.PointerEvent) => {
    const [px, py] = at(event);
    const now = drag.current;
    if (!now) {
      if (draft || picking) setPointer(snapped(event));
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
    const { point } = snapped(event, "start" in now ? now.start : undefined);
    if (now.kind === "point") {
      const to = view.from(point[0], point[1], now.start[2]);
      pending.current = { kind: "move_vertex", line: now.line, point: idOf(now.line, now.index), to };
    } else if (now.kind === "insert") {
      const path = lineOf(shown, now.line);
      const place = view.from(point[0], point[1], path?.start[2] ?? 0);
      pending.current = { kind: "insert_vertex", line: now.line, after: idOf(now.line, now.leg), at: place };
    } else if (now.kind === "shape") {
      const leg = lineOf(whole, now.line)?.legs[now.leg];
      if (!leg) return;
      const to = view.from(point[0], point[1], now.start[2]);
      pending.current = { kind: "shape_leg", line: now.line, leg: idOf(now.line, now.leg), point: now.index, to };
    } else if (now.kind === "picture") {
      const [x, y] = jobAt(event);
      const changes = { east: now.at[0] + x - now.from[0], north: now.at[1] + y - now.from[1] };
      pending.current = { kind: "set_picture", picture: now.id, changes };
    } else {
      pending.current = {
        kind: "set_placing",
        runs: now.runs,
        changes: { facing: { kind: "toward", point: [point[0], point[1], 0] } },
      };
    }
    preview([pending.current]);
  };

  /** The run that alone is selected, where it lies on a line. */
  const ofRun = (line: string) => {
    const run = selected.length === 1 ? runById(shown, selected[0]) : undefined;
    return run?.line === line ? runFigures(shown, run.id) : undefined;
  };

  /** The line nearest to a place in the job, within a few pixels. */
  const nearestLine = (x: number, y: number): { line: string; chainage: number } | undefined => {
    let best: { line: string; chainage: number; away: number } | undefined;
    for (const line of shown.job.lines ?? []) {
      const { away, chainage } = nearestOn(pathOf(shown, line), x, y);
      if (away * frame.scale < 8 && away < (best?.away ?? Number.POSITIVE_INFINITY))
        best = { line: line.id, chainage, away };
    }
    return best;
  };

  const hover = (event: React.PointerEvent) => {
    const [x, y] = jobAt(event);
    const line = lineOf(shown, selected[0]);
    const found = line && nearestOn(pathOf(shown, line), x, y);
    pointAt(line && found && found.away * frame.scale < 26 ? { line: line.id, chainage: found.chainage } : null);
  };

  const up = (event: React.PointerEvent) => {
    const now = drag.current;
    drag.current = null;
    if (!now) return;
    if (now.kind !== "pan") {
      const made = pending.current;
      pending.current = null;
      if (now.moved && made) void edit([made]).then((problem) => problem && preview(null));
      else if (now.kind === "picture") select([now.id]);
      else if (now.kind === "point" && ofRun(now.line)) {
        const id = idOf(now.line, now.index);
        const corner = ofRun(now.line)?.corners.find((one) => one.vertex === id);
        if (corner) pickCorner(id, event.shiftKey);
        else select([now.line]);
      }
      return;
    }
    if (now.moved || event.button === 1) return;
    const target = document.elementFromPoint(event.clientX, event.clientY) as SVGElement | null;
    if (draft) {
      void drawTo(snapped(event));
      return;
    }
    if (picking) {
      const { point } = snapped(event);
      const near = nearestLine(point[0], point[1]) ?? nearestLine(...jobAt(event));
      const spots = [...picking.spots, { point: view.from(point[0], point[1], 0), place: near ?? null }];
      if (spots.length < picking.ask.length) set({ picking: { ...picking, spots } });
      else {
        set({ picking: null });
        picking.done(spots);
      }
      return;
    }
    const gathered = target?.closest<SVGElement>("[data-gathered]")?.dataset.gathered;
    if (gathered) {
      setFrame(fitted(gathered.split(" ").map(Number) as Box, width, height, 140));
      return;
    }
    const id = target?.dataset.pick ?? nearestLine(...jobAt(event))?.line;
    const place = target?.dataset.place;
    const more = event.ctrlKey || event.metaKey || event.shiftKey;
    if (!id) select([]);
    else if (place !== undefined) useWindow.getState().pickPlace(id, place, more);
    else if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(id);
    else select([id], target?.dataset.piece === undefined ? null : Number(target.dataset.piece));
  };

  // The grid that is drawn is the one that is snapped to; some of its lines are stronger, to count by.
  const step = gridStep(frame.scale, units.system ?? "mm", 9);
  const strong = gridStep(frame.scale, units.system ?? "mm", 45);
  const [gx, gy] = toSheet(frame, width, height, 0, 0);
  const sheet = { frame, width, height };
  return (
    <>
      <Ground {...sheet}>
        {[step, strong].map((size, index) => (
          <Grid
            key={index}
            name={index ? "grid-strong" : "grid"}
            size={size * frame.scale}
            {...{ gx, gy, width, height }}
          />
        ))}
        {upright && <path d={`M0 ${gy}H${width}`} stroke="var(--color-faint)" strokeDasharray="8 3 2 3" />}
      </Ground>
      <svg
        ref={ref}
        role="application"
        aria-label="Plan"
        tabIndex={0}
        className={`relative size-full touch-none select-none outline-none focus-visible:outline-2 focus-visible:outline-chalk focus-visible:-outline-offset-2 ${draft || picking ? "cursor-crosshair" : "cursor-default"}`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => !drag.current && pointAt(null)}
        onContextMenu={(event) => event.preventDefault()}
      >
        <PictureHandles {...sheet} />
        {plane && <ElevationThings whole={whole} plane={plane} {...sheet} />}
        <PlanThings {...sheet} />
        <PlanPlaces {...sheet} whole={whole} view={view} />
        <PlanMarks {...sheet} />
        {draft && <Draft {...sheet} view={view} upright={upright} pointer={pointer} />}
        {picking ? <Picked {...sheet} view={view} pointer={pointer} /> : <AskedMarks {...sheet} view={view} />}
        {!upright && (
          <g transform={`translate(${width - 34} 24)`} className="text-pencil" stroke="currentColor" fill="none">
            <path d="M0 36V12M-5 19 0 11l5 8" strokeWidth={1.3} />
            <text textAnchor="middle" y={6} fontSize={12} stroke="none" fill="currentColor">
              N
            </text>
          </g>
        )}
      </svg>
      {draft && <Strip pointer={pointer?.point ?? null} view={view} upright={upright} />}
      {picking && <PickingStrip />}
      {!shown.job.lines?.length && !draft && !upright && <EmptyPlan />}
      <div className="figure pointer-events-none absolute left-3.5 text-pencil text-sm" style={{ bottom: 12 + foot }}>
        {upright && "height above the origin · "}grid {formatLength(step, units)}
      </div>
      {!draft && !picking && (
        <Hints>
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
            <kbd>A</kbd> ask a dimension
          </span>
          <span>
            <kbd>Home</kbd> fit
          </span>
        </Hints>
      )}
    </>
  );
}
