/** The cut across a line: its runs as they are placed there, with what else stands there; the selected one is dragged about. */
import { useRef, useState } from "react";
import type { CutShown, Edit, Run, RunFigures, Section } from "../api/client";
import { toneOf } from "../sheet/tones";
import { Choice } from "../ui/choices";
import { LengthField } from "../ui/fields";
import { formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { useChanges, useShown, useUnits } from "../window/job";
import { usePart } from "../window/store";
import { lineById, lineFigures, lineOf, runById, runFigures, sectionOfRun } from "../window/things";
import { alignedMove, around, type Box, type CutFrame, frameOf, onSheet, placed, placedBox, type Spot } from "./frame";
import { useCut } from "./useCut";

/** A run on the line, as it is placed. */
interface Placed {
  run: Run;
  figures: RunFigures;
  section: Section;
  path: string;
  box: Box;
  datum: Spot;
}

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
        : ({ kind: "set_placing", runs: [chosen.run.id], changes: { roll: ((roll + 180) % 360) - 180 } } as Edit),
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
    <div className="relative h-full">
      <svg
        ref={ref}
        className="size-full touch-none select-none outline-none focus-visible:outline-2 focus-visible:outline-chalk focus-visible:-outline-offset-2"
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
          <OnLine key={one.run.id} one={one} frame={frame} on={selected.includes(one.run.id)} />
        ))}
        {chosen && <Dimensions frame={frame} one={chosen} far={far} />}
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
      <div className="absolute bottom-3 left-4 flex items-end gap-5 bg-paper/85 pr-3">
        <LengthField
          label="Chainage"
          mm={at}
          take={async (mm) => {
            set({ chainage: Math.max(0, Math.min(mm, long)) });
            return null;
          }}
        />
        <div className="mb-1 w-56">
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
      </div>
      <p className="absolute top-4 right-4 bg-paper/85 px-1 text-pencil text-sm">
        {error
          ? "What else stands here could not be asked for."
          : chosen
            ? "Drag it, or move it by the arrows; [ and ] turn it"
            : "seen along the line, right is to the right of travel"}
      </p>
    </div>
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

function boxOf(one: CutShown["others"][number]): Box {
  const xs = one.corners.map((corner) => corner[0] as number);
  const ys = one.corners.map((corner) => corner[1] as number);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/** The edit that moves a run by so much to the right of its line and up; to whole millimetres where that is wanted. */
function placing(one: Placed, [dx, dy]: Spot, whole: boolean): Edit {
  const now = one.run.placing ?? {};
  const near = (mm: number) => (whole && Math.abs(mm - Math.round(mm)) < 0.5 ? Math.round(mm * 2) / 2 : mm);
  const stand_off = near((now.stand_off ?? 0) + (one.figures.right ? dx : -dx));
  const lift = near((now.lift ?? 0) + dy);
  return { kind: "set_placing", runs: [one.run.id], changes: { stand_off, lift } } as Edit;
}

/** Whether a box lies so far from the line that both together would make it small. */
const isFar = ([left, low, right, high]: Box) =>
  Math.max(left, -right, low, -high) > 2.5 * Math.max(right - left, high - low);

function Hatch({ scale }: { scale: number }) {
  return (
    <pattern
      id="masonry"
      width={9}
      height={9}
      patternUnits="userSpaceOnUse"
      patternTransform={`scale(${1 / scale}) rotate(45)`}
    >
      <rect width={9} height={9} fill="var(--color-bench)" />
      <path d="M0 0V9" stroke="var(--color-edge)" strokeWidth={1.6} />
    </pattern>
  );
}

function Level({ frame, width }: { frame: CutFrame; width: number }) {
  return <path d={`M0 ${frame.y}H${width}`} stroke="var(--color-chalk-soft)" strokeWidth={1} strokeDasharray="12 5" />;
}

function LinePoint({ frame }: { frame: CutFrame }) {
  return (
    <g pointerEvents="none">
      <circle cx={frame.x} cy={frame.y} r={5} fill="var(--color-white)" stroke="var(--color-chalk)" strokeWidth={2.4} />
      <text x={frame.x - 10} y={frame.y + 18} fontSize={13} textAnchor="end" className="halo fill-chalk-deep">
        line
      </text>
    </g>
  );
}

function Other({ one, frame }: { one: CutShown["others"][number]; frame: CutFrame }) {
  const shown = useShown();
  const run = runById(shown, one.thing);
  const tone = toneOf(sectionOfRun(shown, run)?.material);
  const words = one.wall ? "wall" : (run?.name ?? "");
  const [left, , right, high] = boxOf(one);
  const [x, y] = onSheet(frame, [(left + right) / 2, high]);
  return (
    <g data-run={undefined}>
      <g transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale} ${-frame.scale})`}>
        <path
          d={one.path}
          fill={one.wall ? "url(#masonry)" : tone.face}
          fillOpacity={one.wall ? 1 : 0.7}
          stroke={one.wall ? "var(--color-pencil)" : tone.edge}
          strokeWidth={1.2}
          fillRule="evenodd"
          vectorEffect="non-scaling-stroke"
        >
          <title>{words}</title>
        </path>
      </g>
      {!one.wall && (
        <text x={x} y={y - 6} textAnchor="middle" fontSize={12.5} className="halo fill-pencil" pointerEvents="none">
          {words}
        </text>
      )}
    </g>
  );
}

function OnLine({ one, frame, on }: { one: Placed; frame: CutFrame; on: boolean }) {
  const [[a, b], [c, d]] = one.figures.matrix as [[number, number], [number, number]];
  const [e, f] = one.figures.shift as Spot;
  const tone = toneOf(one.section.material);
  const [dx, dy] = onSheet(frame, one.datum);
  const [x, y] = onSheet(frame, [(one.box[0] + one.box[2]) / 2, one.box[3]]);
  return (
    <g>
      <g
        transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale} ${-frame.scale}) matrix(${a} ${c} ${b} ${d} ${e} ${f})`}
      >
        <path
          data-run={one.run.id}
          className="cursor-move"
          d={one.path}
          fill={on ? "var(--color-timber)" : tone.face}
          stroke={on ? "var(--color-chalk-deep)" : tone.edge}
          strokeWidth={on ? 2.4 : 1.3}
          fillRule="evenodd"
          vectorEffect="non-scaling-stroke"
        >
          <title>{one.run.name}: drag it about its line</title>
        </path>
      </g>
      {!on && (
        <text x={x} y={y - 6} textAnchor="middle" fontSize={12.5} className="halo fill-pencil" pointerEvents="none">
          {one.run.name}
        </text>
      )}
      {on && (
        <g pointerEvents="none">
          <path d={`M${dx} ${dy}l7 12h-14z`} fill="var(--color-wax)" />
          <text x={dx + 11} y={dy + 15} fontSize={13} className="halo fill-wax-deep">
            datum
          </text>
        </g>
      )}
    </g>
  );
}

/** How far the faces of a run lie from its line: its top and bottom beside it, its front and back over it. */
function Dimensions({ frame, one, far }: { frame: CutFrame; one: Placed; far: boolean }) {
  const units = useUnits();
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const tidy = (mm: number) => formatLength(mm, fine).replace(/\.0$/, "");
  const [left, low, right, high] = one.box;
  const [x0, y0] = onSheet(frame, far ? [left, high] : [Math.min(left, 0), Math.max(high, 0)]);
  const middle = onSheet(frame, [(left + right) / 2, low])[0];
  const across = [...new Set([...(far ? [] : [0]), left, right].map((mm) => Math.round(mm * 1e4) / 1e4))].sort(
    (a, b) => a - b,
  );
  const up = [...new Set([...(far ? [] : [0]), low, high].map((mm) => Math.round(mm * 1e4) / 1e4))].sort(
    (a, b) => a - b,
  );
  const [dx, dy] = [x0 - 44, y0 - 40];
  const away = [
    low > 0 ? `${tidy(low)} above the line` : high < 0 ? `${tidy(-high)} below the line` : "",
    left > 0 ? `${tidy(left)} right of it` : right < 0 ? `${tidy(-right)} left of it` : "",
  ];
  return (
    <g className="figure text-pencil" fontSize={14} pointerEvents="none">
      {far && (
        <text x={middle} y={dy - 30} textAnchor="middle" className="halo fill-chalk-deep">
          {away.filter(Boolean).join(", ")}
        </text>
      )}
      {across.slice(1).map((mm, i) => {
        const [a, b] = [onSheet(frame, [across[i] ?? 0, 0])[0], onSheet(frame, [mm, 0])[0]];
        return (
          <g key={mm} stroke="currentColor" fill="none">
            <path d={`M${a} ${dy}H${b}M${a - 4} ${dy + 4}l8 -8M${b - 4} ${dy + 4}l8 -8`} />
            <text x={(a + b) / 2} y={dy - 8} textAnchor="middle" fill="var(--color-ink)" stroke="none" className="halo">
              {tidy(mm - (across[i] ?? 0))}
            </text>
          </g>
        );
      })}
      {up.slice(1).map((mm, i) => {
        const [a, b] = [onSheet(frame, [0, up[i] ?? 0])[1], onSheet(frame, [0, mm])[1]];
        return (
          <g key={mm} stroke="currentColor" fill="none">
            <path d={`M${dx} ${a}V${b}M${dx - 4} ${a + 4}l8 -8M${dx - 4} ${b + 4}l8 -8`} />
            <text
              x={dx - 9}
              y={(a + b) / 2 + 5}
              textAnchor="end"
              fill="var(--color-ink)"
              stroke="none"
              className="halo"
            >
              {tidy(mm - (up[i] ?? 0))}
            </text>
          </g>
        );
      })}
    </g>
  );
}
