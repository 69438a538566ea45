/** The section desk: the outline of the selected section at its size, to be drawn on, with its datum and its bed. */

import { lazy, Suspense, useRef, useState } from "react";
import type { Edit, Section, SectionFigures } from "../api/client";
import { DeskPictures } from "../sheet/plan/PlanPictures";
import { Words } from "../ui/choices";
import { FirstUse } from "../ui/FirstUse";
import { useSize } from "../ui/useSize";
import { useChanges, useSentence, useShown } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { draftById, sectionById } from "../window/things";
import { DraftDesk, NewOutline } from "./DraftDesk";
import { FaultMarks } from "./Faults";
import { type DeskFrame, type Drawn, deskFrame, inDrawing, onDesk, type Spot, samePart, snapped } from "./frame";
import { Handles } from "./Handles";
import { HeldMarks } from "./HeldMarks";
import { Paper } from "./Paper";
import { ScalePicking } from "./ScalePicking";
import { FirstOne, Grows, Picture } from "./SectionPicture";
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
      <div className="absolute inset-x-3 top-3 z-10">
        <FirstUse
          part="desk"
          acts={[
            "Click a point or an edge, and its card says what can be made of it",
            "drag it to shape the section",
            "with Shift, several are held level, square or equal",
          ]}
        />
      </div>
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
    return (to) => ({ kind: "put_outline_point", section: section.id, loop, edge, at, to });
  }
  if (!shape) return null;
  const [loop = 0, edge = 0, which = 0] = numbers(shape);
  const old = drawn.loops[loop]?.edges[edge];
  if (!old) return null;
  return (to, parted) => {
    const by = old.by.map((place, k) => (k === which ? to : place));
    return { kind: "shape_outline_edge", section: section.id, loop, edge, shape: old.kind, by, parted };
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
