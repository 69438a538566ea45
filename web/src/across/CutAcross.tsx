/** The cut across a line: its runs as they are placed there, with what else stands there; the selected one is dragged about. */
import { useContext, useRef, useState } from "react";
import type { CutShown, Edit } from "../api/client";
import { Choice } from "../ui/choices";
import { FirstUse } from "../ui/FirstUse";
import { LengthField } from "../ui/fields";
import { useSize } from "../ui/useSize";
import { JobId, useChanges, useShown } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { lineById, lineFigures, lineOf, runById, runFigures, sectionOfRun } from "../window/things";
import { boxOf, Dimensions, Hatch, Level, Levels, LinePoint, OnLine, Other, type Placed } from "./Drawn";
import { alignedMove, around, type Box, type CutFrame, frameOf, onSheet, placed, placedBox, type Spot } from "./frame";
import { useCut } from "./useCut";

interface Drag {
  from: Spot;
  frame: CutFrame;
  /** As it was placed when it was taken hold of; null where the sheet itself is moved. */
  of: Placed | null;
  moved: boolean;
}

export function CutAcross() {
  const shown = useShown();
  const { selected, chainage } = usePart("selected", "chainage");
  const line = selected.map((id) => lineOf(shown, id)).find((one) => one !== undefined);
  if (!line)
    return (
      <p className="p-6 pt-16 text-pencil">
        Select a line, or a run on it: here it is seen cut across, with all that stands there.
      </p>
    );
  // A little way from the start, where no wall that comes in there stands in the way.
  const begin = Math.min(300, (lineFigures(shown, line.id)?.length ?? 0) / 2);
  return <Sheet key={line.id} line={line.id} picked={chainage ?? begin} />;
}

function Sheet({ line, picked }: { line: string; picked: number }) {
  const shown = useShown();
  const job = useContext(JobId);
  const { edit, preview } = useChanges();
  const { selected, select, set, fit } = usePart("selected", "select", "set", "fit");
  const [ref, size, element] = useSize<SVGSVGElement>();
  const [all, setAll] = useState(false);
  const [seen, setSeen] = useState<{ frame: CutFrame; fit: number } | null>(null);
  const [lines, setLines] = useState<[Spot | null, Spot | null] | null>(null);
  const drag = useRef<Drag | null>(null);
  const pending = useRef<Edit | null>(null);
  const long = lineFigures(shown, line)?.length ?? 0;
  const at = Math.min(picked, long);
  const { data: cut, error } = useCut(line, at);
  const here = placedHere(shown, line, cut);
  const chosen = here.find((one) => selected.includes(one.run.id)) ?? null;
  // Walls lie behind what stands before them.
  const others = [...(cut?.others ?? [])].sort((a, b) => Number(b.wall) - Number(a.wall));
  const drawnAgain = useWindow((state) => state.preview !== null);
  const point: Box = [0, 0, 0, 0];
  const far = chosen !== null && !all && isFar(chosen.box);
  const box = far
    ? (chosen as Placed).box
    : around([
        point,
        ...(chosen ? [chosen.box] : here.map((one) => one.box)),
        ...(all ? [...here.map((one) => one.box), ...others.map(boxOf)] : []),
      ]);
  const frame = seen && seen.fit === fit ? seen.frame : frameOf(size, box);

  const place = (event: { clientX: number; clientY: number }): Spot => {
    const bounds = (element as SVGSVGElement).getBoundingClientRect();
    return [event.clientX - bounds.left, event.clientY - bounds.top];
  };
  const down = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    const id = (event.target as SVGElement).dataset.run;
    const of = here.find((one) => one.run.id === id) ?? null;
    if (id && !selected.includes(id)) select([id]);
    element?.setPointerCapture(event.pointerId);
    drag.current = { from: place(event), frame, of, moved: false };
  };
  const move = (event: React.PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const [px, py] = place(event);
    const [dx, dy] = [px - now.from[0], py - now.from[1]];
    if (!now.moved && Math.hypot(dx, dy) < 3) return;
    now.moved = true;
    if (!now.of) {
      setSeen({ frame: { ...now.frame, x: now.frame.x + dx, y: now.frame.y + dy }, fit });
      return;
    }
    setSeen({ frame: now.frame, fit });
    const by: Spot = [dx / now.frame.scale, -dy / now.frame.scale];
    const [left, low, right, high] = now.of.box;
    const own: Spot[] = [now.of.datum, [left, low], [right, high]];
    const corners = others.flatMap((one) => one.corners as Spot[]);
    const rest = here.filter((one) => one.run.id !== now.of?.run.id).flatMap((one) => cornersOf(one.box));
    const found = event.altKey
      ? { by, lines: null }
      : alignedMove(by, own, [[0, 0], ...corners, ...rest], 6 / now.frame.scale);
    setLines(found.lines);
    pending.current = placing(now.of, found.by, !event.altKey);
    preview([pending.current]);
  };
  const up = () => {
    const made = pending.current;
    const moved = drag.current?.moved;
    drag.current = null;
    pending.current = null;
    setLines(null);
    if (moved && made) void edit([made]).then((problem) => problem && preview(null));
  };
  const press = (event: React.KeyboardEvent) => {
    if (!chosen || event.target !== event.currentTarget) return;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    const turn = { "[": 1, "]": -1, "{": 15, "}": -15 }[event.key];
    if (!way && !turn) return;
    event.preventDefault();
    const step = event.shiftKey ? 10 : 1;
    const roll = (chosen.run.placing?.roll ?? 0) + (turn ?? 0);
    void edit([
      way
        ? placing(chosen, [(way[0] ?? 0) * step, (way[1] ?? 0) * step], false)
        : { kind: "set_placing", runs: [chosen.run.id], changes: { roll: ((roll + 180) % 360) - 180 } },
    ]);
  };
  const wheel = (event: React.WheelEvent) => {
    const [px, py] = place(event);
    const times = Math.exp(-event.deltaY / 400);
    const scale = Math.min(Math.max(frame.scale * times, 0.02), 60);
    const by = scale / frame.scale;
    setSeen({ frame: { scale, x: px - (px - frame.x) * by, y: py - (py - frame.y) * by }, fit });
  };
  return (
    <div className="flex h-full flex-col">
      <svg
        ref={ref}
        className="min-h-0 w-full flex-1 touch-none select-none outline-none focus-visible:outline-2 focus-visible:outline-chalk focus-visible:-outline-offset-2"
        role="application"
        tabIndex={0}
        aria-label={`Cut across ${lineById(shown, line)?.name}`}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          pending.current = null;
          preview(null);
          up();
        }}
        onKeyDown={press}
        onWheel={wheel}
      >
        <Hatch scale={frame.scale} />
        <Level frame={frame} width={size.width} />
        {others.map((one) => (
          <Other key={`${one.thing} ${one.wall}`} one={one} frame={frame} />
        ))}
        {here.map((one) => (
          <OnLine
            key={one.run.id}
            one={one}
            frame={frame}
            on={selected.includes(one.run.id)}
            // While it is dragged about, what was cut of it is not where it is.
            cut={drawnAgain ? undefined : cut?.cuts.find((part) => part.thing === one.run.id)}
          />
        ))}
        {chosen && <Dimensions frame={frame} one={chosen} far={far} />}
        {chosen && cut?.upright && <Levels frame={frame} one={chosen} height={cut.point[2] ?? 0} />}
        {lines?.map((spot, axis) => {
          if (!spot) return null;
          const [x, y] = onSheet(frame, spot);
          return (
            <path
              key={axis}
              d={axis === 0 ? `M${x} 0V${size.height}` : `M0 ${y}H${size.width}`}
              stroke="var(--color-chalk)"
              strokeDasharray="5 4"
              strokeWidth={0.9}
            />
          );
        })}
        <LinePoint frame={frame} />
      </svg>
      {/* Below what is drawn: nothing lies over the hatching. */}
      <FirstUse
        part="cut"
        acts={[
          "Click a section to select its run",
          "drag it, and it snaps to what stands there",
          "type a chainage, or drag along the rod, to cut elsewhere",
        ]}
      />
      <div className="flex items-center gap-x-5 border-rule border-t bg-paper px-4 py-1">
        <LengthField
          label="Chainage"
          mm={at}
          take={async (mm) => {
            set({ chainage: Math.max(0, Math.min(mm, long)) });
            return null;
          }}
        />
        <div className="w-56 shrink-0">
          <Choice
            label="What is in sight"
            value={all ? "all" : "run"}
            ways={[
              ["run", chosen ? "This run" : "Its runs"],
              ["all", "All that stands here"],
            ]}
            choose={(way) => {
              setAll(way === "all");
              setSeen(null);
            }}
            plain
          />
        </div>
        <p className="whitespace-nowrap text-sm">
          <Saved job={job} line={line} at={at} form="dxf" /> <Saved job={job} line={line} at={at} form="svg" />
        </p>
        <p className="ml-auto text-right text-pencil text-sm leading-tight">
          {error
            ? "The other things here could not be fetched."
            : chosen
              ? "Drag it, or move it by the arrows; [ and ] turn it"
              : "seen along the line, right is to the right of travel"}
        </p>
      </div>
    </div>
  );
}

/** The cut at full size, as a file. */
function Saved({ job, line, at, form }: { job: string; line: string; at: number; form: "dxf" | "svg" }) {
  return (
    <a
      className="text-chalk-deep underline decoration-1 underline-offset-2 hover:text-ink"
      href={`/api/jobs/${job}/cut-across.${form}?line=${line}&chainage=${at}`}
      download
      title="What is cut here at full size, with levels"
    >
      {form.toUpperCase()}
    </a>
  );
}

/** The runs on a line that pass at the cut, as they are placed now. */
function placedHere(shown: ReturnType<typeof useShown>, line: string, cut: CutShown | undefined): Placed[] {
  const ids = cut?.along ?? [];
  return ids.flatMap((id) => {
    const run = runById(shown, id);
    const figures = runFigures(shown, id);
    const section = sectionOfRun(shown, run);
    const drawn = shown.sections.find((one) => one.id === run?.section);
    if (!run || run.line !== line || !figures || !section || !drawn) return [];
    const path = drawn.range.find((one) => one.name === run.size)?.path ?? drawn.path;
    const base = shown.job.sections?.find((one) => one.id === run.section) ?? section;
    const datum = run.placing?.datum ?? section.datum;
    const point =
      datum?.kind === "point"
        ? [datum.x, datum.y]
        : (drawn.datums[datum?.name ?? "back-foot"] ?? [0, 0]).map(
            (mm, axis) => mm * (axis ? section.height / base.height : section.width / base.width),
          );
    return [{ run, figures, section, path, box: placedBox(figures, section), datum: placed(figures, point) }];
  });
}

const cornersOf = ([left, low, right, high]: Box): Spot[] => [
  [left, low],
  [right, high],
];

/** The edit that moves a run by so much to the right of its line and up; to whole millimetres where that is wanted. */
function placing(one: Placed, [dx, dy]: Spot, whole: boolean): Edit {
  const now = one.run.placing ?? {};
  const near = (mm: number) => (whole && Math.abs(mm - Math.round(mm)) < 0.5 ? Math.round(mm * 2) / 2 : mm);
  const stand_off = near((now.stand_off ?? 0) + (one.figures.right ? dx : -dx));
  const lift = near((now.lift ?? 0) + dy);
  return { kind: "set_placing", runs: [one.run.id], changes: { stand_off, lift } };
}

/** Whether a box lies so far from the line that both together would make it small. */
const isFar = ([left, low, right, high]: Box) =>
  Math.max(left, -right, low, -high) > 2.5 * Math.max(right - left, high - low);
