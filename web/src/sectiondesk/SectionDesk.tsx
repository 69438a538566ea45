/** The section desk: the outline of the selected section at its size, to be drawn on, with its datum and its bed. */
import { lazy, Suspense, useRef, useState } from "react";
import type { Edit, Section, SectionFigures } from "../api/client";
import { DeskPictures } from "../sheet/plan/PlanPictures";
import { Words } from "../ui/choices";
import { formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { useChanges, useSentence, useShown, useUnits } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { draftById, sectionById } from "../window/things";
import { FaultMarks } from "./Faults";
import { useLooked } from "./facts";
import { type DeskFrame, type Drawn, deskFrame, inDrawing, onDesk, type Spot, samePart, snapped } from "./frame";
import { Handles } from "./Handles";
import { HeldMarks } from "./HeldMarks";
import { Paper } from "./Paper";
import { ScalePicking } from "./ScalePicking";
import { DraftDesk, NewOutline } from "./SketchDesk";
import { drawnPath, type OutlineSketch, outlineIn, sketchOf, useFaults, withMoved } from "./sketch";
import { TypedFigures } from "./TypedFigures";

// three.js is only fetched when there is a section to be looked at.
const Sample = lazy(() => import("./Sample"));

export function SectionDesk() {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  const drawing = useWindow((state) => state.outline !== null);
  const section = sectionById(shown, selected[0]);
  const figures = shown.sections.find((one) => one.id === section?.id);
  const draft = draftById(shown, selected[0]);
  if (drawing) return <NewOutline />;
  if (draft) return <DraftDesk key={draft.id} draft={draft} />;
  if (!section || !figures) return <p className="p-6 text-pencil">Select a section in the job sheet.</p>;
  return <Desk key={section.id} section={section} figures={figures} />;
}

/** What is being dragged, and the frame that holds still meanwhile. */
interface Drag {
  frame: DeskFrame;
  edit: (at: Spot, parted: boolean) => Edit;
  from: [number, number];
  moved: boolean;
}

function Desk({ section, figures }: { section: Section; figures: SectionFigures }) {
  const { edit, preview } = useChanges();
  const { parts, set } = usePart("parts", "set");
  const [ref, size, element] = useSize<SVGSVGElement>();
  const drag = useRef<Drag | null>(null);
  const pending = useRef<Edit | null>(null);
  const [held, setHeld] = useState<DeskFrame | null>(null);
  // What an outline was drawn to that it cannot be: it may be kept as a draft.
  const [failed, setFailed] = useState<OutlineSketch | null>(null);
  const [guides, setGuides] = useState<{ at: Spot; with: Spot[] } | null>(null);
  const drawn = figures.drawn;
  const ranged = useWindow((state) => state.ranged);
  // What is shown of the range must have its room too.
  const largest = (side: "width" | "height") =>
    Math.max(section[side], ...(ranged ? figures.range.map((row) => row[side]) : []));
  const room = { width: largest("width"), height: largest("height") };
  const frame = held ?? deskFrame(size, room, drawn.origin as Spot);

  const place = (event: React.PointerEvent): [number, number] => {
    const box = (element as SVGSVGElement).getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const down = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    const { point, shape, insert, edge } = (event.target as SVGElement).dataset;
    const found = grasped(section, drawn, { point, shape, insert });
    const part = point ? partOf("point", point) : edge ? partOf("edge", edge) : null;
    if (part) {
      const more = event.shiftKey || event.ctrlKey || event.metaKey;
      const there = parts.some((one) => samePart(one, part));
      set({
        parts: more ? (there ? parts.filter((one) => !samePart(one, part)) : [...parts, part]) : [part],
        problem: null,
      });
    } else if (!found) set({ parts: [] });
    if (!found) return;
    element?.setPointerCapture(event.pointerId);
    drag.current = { frame, edit: found, from: place(event), moved: false };
  };
  const move = (event: React.PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const [px, py] = place(event);
    if (!now.moved && Math.hypot(px - now.from[0], py - now.from[1]) < 3) return;
    if (!now.moved) setHeld(now.frame);
    now.moved = true;
    const found = event.altKey
      ? { at: inDrawing(now.frame, px, py), with: [] }
      : snapped(now.frame, drawn, inDrawing(now.frame, px, py));
    setGuides(found);
    pending.current = now.edit(found.at, event.altKey);
    preview([pending.current]);
  };
  /** The arrows move the picked points, one after another. */
  const nudge = (event: React.KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    const points = parts.filter((part) => part.kind === "point");
    if (!way || !points.length || event.target !== event.currentTarget) return;
    event.preventDefault();
    const step = event.shiftKey ? 0.1 : 1;
    void edit(
      points.map(({ loop, index }) => {
        const at = drawn.loops[loop]?.points[index]?.at as Spot;
        const to = at.map((mm, axis) => Math.round((mm + (way[axis] ?? 0) * step) * 1e9) / 1e9);
        return { kind: "move_outline_point", section: section.id, loop, point: index, to } as Edit;
      }),
    );
  };
  const up = () => {
    const made = pending.current;
    const moved = drag.current?.moved;
    drag.current = null;
    pending.current = null;
    setGuides(null);
    const rest = () => setHeld(null);
    if (moved && made)
      void edit([made]).then((problem) => {
        if (problem) preview(null);
        const kept = problem?.code.startsWith("outline-") ? drawnTo(drawn, made) : null;
        setFailed(kept);
        // It is notified where it is, with what can be done.
        if (kept) useWindow.getState().set({ problem: null });
        rest();
      });
    else rest();
  };

  return (
    <div className="relative h-full">
      <svg
        ref={ref}
        className="size-full touch-none select-none outline-none focus-visible:outline-2 focus-visible:outline-chalk focus-visible:-outline-offset-2"
        role="application"
        tabIndex={0}
        onKeyDown={nudge}
        aria-label={`Section ${section.name}`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          pending.current = null;
          preview(null);
          up();
        }}
      >
        <Paper frame={frame} height={size.height} />
        <DeskPictures on={section.id} at={(spot) => onDesk(frame, spot)} scale={frame.scale} />
        <Picture section={section} figures={figures} frame={frame} />
        <Grows figures={figures} section={section} frame={frame} />
        {failed && <Failed sketch={failed} frame={frame} />}
        {guides && <Guides frame={frame} {...guides} />}
        {section.member && <FirstOne section={section} figures={figures} frame={frame} />}
        {!section.member && <Handles frame={frame} drawn={drawn} parts={parts} />}
        {!held && !section.member && (
          <>
            <HeldMarks section={section} frame={frame} drawn={drawn} />
            <TypedFigures section={section} frame={frame} drawn={drawn} parts={parts} />
          </>
        )}
        <ScalePicking frame={frame} size={size} />
      </svg>
      <Suspense>
        <Sample section={section} />
      </Suspense>
      {failed && <KeepFailed section={section} sketch={failed} done={() => setFailed(null)} />}
    </div>
  );
}

/** An outline as it was drawn to, where that is a point moved or an edge shaped; nothing else leaves anything to keep. */
function drawnTo(drawn: Drawn, made: Edit): OutlineSketch | null {
  const loop = drawn.loops[0];
  if (!loop || ("loop" in made && made.loop)) return null;
  const sketch = sketchOf(loop);
  if (made.kind === "move_outline_point") return withMoved(sketch, made.point, made.to as Spot);
  if (made.kind !== "shape_outline_edge") return null;
  const edges = sketch.edges.map((edge, i) => {
    if (i !== made.edge) return edge;
    const [p, q] = (made.by ?? []) as [Spot, Spot];
    return edge.kind === "curve"
      ? { ...edge, controls: [p, q] as [Spot, Spot] }
      : edge.kind === "arc"
        ? { ...edge, via: p }
        : edge;
  });
  return { ...sketch, edges };
}

/** The outline that could not be, with what is wrong with it. */
function Failed({ sketch, frame }: { sketch: OutlineSketch; frame: DeskFrame }) {
  const faults = useFaults(outlineIn(sketch));
  const at = (spot: Spot) => onDesk(frame, spot);
  return (
    <g pointerEvents="none">
      <path d={drawnPath(sketch, at)} fill="none" stroke="var(--color-red)" strokeWidth={1.4} strokeDasharray="6 4" />
      <FaultMarks faults={faults} at={at} />
    </g>
  );
}

function KeepFailed({ section, sketch, done }: { section: Section; sketch: OutlineSketch; done: () => void }) {
  const { make } = useChanges();
  const { select } = usePart("select");
  const faults = useFaults(outlineIn(sketch));
  const sentence = useSentence();
  const keep = async () => {
    const draft = { name: section.name, outline: outlineIn(sketch), holes: section.holes, section: section.id };
    const { problem, made } = await make([{ kind: "keep_draft", draft } as unknown as Edit]);
    if (!problem) select(made);
  };
  return (
    <div
      role="status"
      className="absolute right-3.5 bottom-3.5 left-[228px] flex items-baseline gap-3 border-red border-l-[3px] bg-red-wash px-3 py-2 text-sm"
    >
      <b className="text-red">!</b>
      <span className="flex-1">
        {faults[0] ? sentence(faults[0].words) : "This cannot be a section yet."} The section stays as it was.
      </span>
      <Words onClick={() => void keep()}>Keep it as a draft</Words>
      <Words onClick={done}>Dismiss</Words>
    </div>
  );
}

const numbers = (text: string) => text.split(" ").map(Number);

function partOf(kind: "point" | "edge", text: string) {
  const [loop = 0, index = 0] = numbers(text);
  return { kind, loop, index };
}

/** What a drag of a handle does to the outline, by where it is dragged to. */
function grasped(
  section: Section,
  drawn: Drawn,
  { point, shape, insert }: { point?: string | undefined; shape?: string | undefined; insert?: string | undefined },
): ((at: Spot, parted: boolean) => Edit) | null {
  if (point) {
    const [loop, index] = numbers(point);
    return (to) => ({ kind: "move_outline_point", section: section.id, loop, point: index, to }) as Edit;
  }
  if (insert) {
    const [loop = 0, edge = 0] = numbers(insert);
    const at = drawn.loops[loop]?.edges[edge]?.middle as Spot;
    return (to) => ({ kind: "put_outline_point", section: section.id, loop, edge, at, to }) as Edit;
  }
  if (!shape) return null;
  const [loop = 0, edge = 0, which = 0] = numbers(shape);
  const old = drawn.loops[loop]?.edges[edge];
  if (!old) return null;
  return (to, parted) => {
    const by = old.by.map((place, k) => (k === which ? to : place));
    return { kind: "shape_outline_edge", section: section.id, loop, edge, shape: old.kind, by, parted } as Edit;
  };
}

/** The places that what is dragged has been brought into line with. */
function Guides({ frame, at, with: others }: { frame: DeskFrame; at: Spot; with: Spot[] }) {
  const [x, y] = onDesk(frame, at);
  return others.map((other, i) => {
    const [ox, oy] = onDesk(frame, other);
    return (
      <path
        key={i}
        d={`M${ox} ${oy}L${x} ${y}`}
        stroke="var(--color-chalk)"
        strokeDasharray="5 4"
        strokeWidth={0.9}
        pointerEvents="none"
      />
    );
  });
}

/** The section that this one members with, in dashes, its datum on the same place. */
function FirstOne({ section, figures, frame }: { section: Section; figures: SectionFigures; frame: DeskFrame }) {
  const shown = useShown();
  const first = shown.sections.find((one) => one.id === section.member?.of);
  if (!first || section.member?.size) return null;
  const [ox = 0, oy = 0] = figures.drawn.origin as Spot;
  const away = [0, 1].map((axis) => (figures.datum[axis] as number) - (first.datum[axis] as number));
  const [x, y] = onDesk(frame, [ox + (away[0] as number), oy + (away[1] as number)]);
  return (
    <g transform={`translate(${x} ${y}) scale(${frame.scale} ${-frame.scale})`} pointerEvents="none">
      <path
        d={first.path}
        fill="none"
        stroke="var(--color-pencil)"
        strokeWidth={1.2}
        strokeDasharray="5 4"
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

/** The section itself, with its size, its bed, its datum and its axes. */
function Picture({ section, figures, frame }: { section: Section; figures: SectionFigures; frame: DeskFrame }) {
  const units = useUnits();
  const shown = useShown();
  const traced = shown.job.pictures?.some((picture) => picture.on === section.id && picture.shown !== false);
  const { origin } = figures.drawn;
  const [ox = 0, oy = 0] = origin as Spot;
  const at = (x: number, y: number) => onDesk(frame, [ox + x, oy + y]);
  const [dx, dy] = at(figures.datum[0] as number, figures.datum[1] as number);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const [x0, y0] = at(0, 0);
  const [x1, y1] = at(section.width, section.height);
  const tidy = (mm: number) => formatLength(mm, fine).replace(/\.0$/, "");
  const bed = section.bed?.kind === "side" ? section.bed.side : undefined;
  const bedPath = {
    back: `M${x0} ${y0}V${y1}`,
    front: `M${x1} ${y0}V${y1}`,
    foot: `M${x0} ${y0}H${x1}`,
    head: `M${x0} ${y1}H${x1}`,
  }[bed ?? "back"];
  return (
    <g pointerEvents="none">
      <g transform={`translate(${x0} ${y0}) scale(${frame.scale} ${-frame.scale})`}>
        <path
          d={figures.path}
          fill="var(--color-timber)"
          fillOpacity={traced ? 0.45 : 1}
          stroke="var(--color-ink)"
          strokeWidth={2}
          strokeLinejoin="round"
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
      {bed && <path d={bedPath} stroke="var(--color-pencil)" strokeWidth={1.4} strokeDasharray="7 4" />}
      <g className="figure text-pencil" stroke="currentColor" fontSize={15}>
        <path d={`M${x0} ${y1 - 48}H${x1}M${x0 - 5} ${y1 - 43}l10 -10M${x1 - 5} ${y1 - 43}l10 -10`} fill="none" />
        <path d={`M${x0 - 62} ${y0}V${y1}M${x0 - 67} ${y0 + 5}l10 -10M${x0 - 67} ${y1 + 5}l10 -10`} fill="none" />
        <text x={(x0 + x1) / 2} y={y1 - 56} textAnchor="middle" fill="var(--color-ink)" stroke="none">
          {tidy(section.width)}
        </text>
        <text
          transform={`translate(${x0 - 70} ${(y0 + y1) / 2}) rotate(-90)`}
          textAnchor="middle"
          fill="var(--color-ink)"
          stroke="none"
        >
          {tidy(section.height)}
        </text>
      </g>
      <Axes section={section} at={at} />
      <path d={`M${dx} ${dy}l8 14h-16z`} fill="var(--color-wax)" />
      <circle cx={dx} cy={dy} r={3} fill="var(--color-wax)" stroke="var(--color-white)" />
      <text x={dx - 13} y={dy + 15} textAnchor="end" fontSize={13} className="halo fill-wax-deep">
        datum
      </text>
    </g>
  );
}

/** The narrowest place: a short stroke between its two faces. */
function Narrowest({ between }: { between: [number, number][] }) {
  const [a, b] = between as [[number, number], [number, number]];
  return (
    <g stroke="var(--color-pencil)" strokeWidth={1.1}>
      <path d={`M${a[0]} ${a[1]}L${b[0]} ${b[1]}`} strokeDasharray="2 2" />
      {[a, b].map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={2} fill="var(--color-pencil)" stroke="none" />
      ))}
      <title>The narrowest place</title>
    </g>
  );
}

/** What stretches, marked on the dimensions; and the outlines of the range, where they are shown. */
function Grows({ figures, section, frame }: { figures: SectionFigures; section: Section; frame: DeskFrame }) {
  const ranged = useWindow((state) => state.ranged);
  const [ox = 0, oy = 0] = figures.drawn.origin as Spot;
  const at = (x: number, y: number) => onDesk(frame, [ox + x, oy + y]);
  const [x0, y0] = at(0, 0);
  const [, y1] = at(section.width, section.height);
  const [across, up] = figures.drawn.stretches;
  return (
    <g pointerEvents="none">
      {ranged &&
        figures.range.map((row) => (
          <g key={row.name}>
            <path
              transform={`translate(${x0} ${y0}) scale(${frame.scale} ${-frame.scale})`}
              d={row.path}
              fill="none"
              stroke="var(--color-chalk)"
              strokeWidth={1.2}
              strokeDasharray="6 3"
              vectorEffect="non-scaling-stroke"
            />
            <text
              x={at(row.width, 0)[0] + 6}
              y={at(0, row.height)[1] + 4}
              fontSize={12.5}
              className="halo figure fill-chalk-deep"
            >
              {row.name}
            </text>
          </g>
        ))}
      {across && <Stretch d={`M${at(across[0] ?? 0, 0)[0]} ${y1 - 48}H${at(across[1] ?? 0, 0)[0]}`} />}
      {up && <Stretch d={`M${x0 - 62} ${at(0, up[0] ?? 0)[1]}V${at(0, up[1] ?? 0)[1]}`} />}
    </g>
  );
}

function Stretch({ d }: { d: string }) {
  return (
    <path d={d} stroke="var(--color-wax)" strokeWidth={5} strokeDasharray="3 2.5" fill="none">
      <title>This part stretches; the rest keeps its shape</title>
    </path>
  );
}

/** The centroid with the principal axes through it. */
function Axes({ section, at }: { section: Section; at: (x: number, y: number) => [number, number] }) {
  const facts = useLooked(section).data?.facts;
  if (!facts) return null;
  const [x, y] = facts.centroid;
  const [cx, cy] = at(x, y);
  const turn = (facts.principal_angle * Math.PI) / 180;
  // Long enough to be read as axes, short enough to leave the figures alone.
  const size = 0.3 * Math.min(section.width, section.height);
  const axis = (angle: number) => {
    const [dx, dy] = [size * Math.cos(angle), size * Math.sin(angle)];
    const [x0, y0] = at(x - dx, y - dy);
    const [x1, y1] = at(x + dx, y + dy);
    return `M${x0} ${y0}L${x1} ${y1}`;
  };
  return (
    <g>
      <path
        d={`${axis(turn)}${axis(turn + Math.PI / 2)}`}
        stroke="var(--color-pencil)"
        strokeWidth={0.8}
        strokeDasharray="14 4 2 4"
      />
      <Narrowest between={[facts.narrowest[1], facts.narrowest[2]].map((one) => at(one[0], one[1]))} />
      <circle cx={cx} cy={cy} r={3.5} fill="var(--color-paper)" stroke="var(--color-pencil)" strokeWidth={1.2} />
      <text x={cx + 9} y={cy - 8} fontSize={13} className="halo fill-pencil">
        centroid
      </text>
    </g>
  );
}
