/** The drawing as joining sees it: lines taken in or left out, gaps closed, places where edges part. */
import { useMemo } from "react";
import type { DrawingRead, LineMet, LinesFound } from "../api/client";
import { boxOf, fitted, toSheet } from "../sheet/plan/frame";
import { formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { useUnits } from "../window/job";
import { keyOfMet, type Overlay } from "./Reimport";

interface PreviewProps {
  drawing: DrawingRead;
  found: LinesFound | undefined;
  lines: LinesFound["lines"];
  left: ReadonlySet<string>;
  keyOf: (line: LinesFound["lines"][number]) => string;
  pointed: number | null;
  point: (line: number | null) => void;
  toggle: (line: LinesFound["lines"][number], on: boolean) => void;
  busy: boolean;
  choose: (junction: number, pairs: [number, number][]) => void;
  /** The lines of a newer issue over those of the one before; null where lines are only added. */
  over: Overlay[] | null;
  pointedMet: string | null;
  pointMet: (met: string | null) => void;
  turn: (met: LineMet) => void;
}

export function Preview(props: PreviewProps) {
  const { drawing, found, lines, left, keyOf, pointed, point, toggle, busy, choose, over } = props;
  const [ref, { width, height }] = useSize<SVGSVGElement>();
  const units = useUnits();
  const box = useMemo(() => boxOf(lines.flatMap((line) => line.points as [number, number][])), [lines]);
  const frame = fitted(box, width || 800, height || 500, 60);
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  const d = (line: LinesFound["lines"][number]) =>
    `M${line.points.map((one) => one.join(" ")).join("L")}${line.closed ? "Z" : ""}`;
  // Thousands of lines are drawn as two paths; a few are drawn one by one, so that each can be clicked.
  const many = lines.length > 1500;
  return (
    <div className="relative min-w-0">
      <svg ref={ref} className="size-full" role="img" aria-label={`Drawing ${drawing.file}`}>
        <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`} fill="none">
          {over ? (
            <Overlaid {...props} over={over} />
          ) : many ? (
            <>
              <path
                d={lines
                  .filter((line) => left.has(keyOf(line)))
                  .map(d)
                  .join("")}
                stroke="var(--color-faint)"
                vectorEffect="non-scaling-stroke"
              />
              <path
                d={lines
                  .filter((line) => !left.has(keyOf(line)))
                  .map(d)
                  .join("")}
                stroke="var(--color-chalk)"
                vectorEffect="non-scaling-stroke"
              />
            </>
          ) : (
            lines.map((line) => {
              const on = !left.has(keyOf(line));
              return (
                <g
                  key={line.number}
                  className="cursor-pointer"
                  onClick={() => toggle(line, !on)}
                  onPointerEnter={() => point(line.number)}
                  onPointerLeave={() => point(null)}
                >
                  <path
                    d={d(line)}
                    stroke="transparent"
                    strokeWidth={12}
                    vectorEffect="non-scaling-stroke"
                    pointerEvents="stroke"
                  />
                  <path
                    d={d(line)}
                    stroke={
                      on
                        ? pointed === line.number
                          ? "var(--color-chalk-deep)"
                          : "var(--color-chalk)"
                        : "var(--color-faint)"
                    }
                    strokeWidth={pointed === line.number ? 3.4 : on ? 2 : 1.2}
                    strokeDasharray={on ? undefined : "5 4"}
                    vectorEffect="non-scaling-stroke"
                  />
                </g>
              );
            })
          )}
        </g>
        {!over &&
          lines.length < 400 &&
          lines.flatMap((line) =>
            line.points.length < 400 && !line.curved
              ? (line.points as [number, number][]).map((place, i) => {
                  const [x, y] = toSheet(frame, width, height, place[0], place[1]);
                  return (
                    <rect
                      key={`${line.number}-${i}`}
                      x={x - 2.2}
                      y={y - 2.2}
                      width={4.4}
                      height={4.4}
                      fill="var(--color-white)"
                      stroke={left.has(keyOf(line)) ? "var(--color-faint)" : "var(--color-chalk)"}
                      pointerEvents="none"
                    />
                  );
                })
              : [],
          )}
        {apartOnSheet(
          found?.gaps ?? [],
          (gap) => toSheet(frame, width, height, gap[0] as number, gap[1] as number),
          10,
        ).map(({ one: gap, x, y, i, more }) => {
          return (
            <circle key={i} cx={x} cy={y} r={7} fill="none" stroke="var(--color-wax)" strokeWidth={1.5}>
              <title>
                a gap of{" "}
                {formatLength(gap[2] as number, { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 })},
                closed
                {more > 0 && `, and ${more} more here`}
              </title>
            </circle>
          );
        })}
        {found?.points.slice(0, 5000).map(([px, py], i) => {
          const [x, y] = toSheet(frame, width, height, px, py);
          return (
            <path key={i} d={`M${x - 3} ${y}h6M${x} ${y - 3}v6`} stroke="var(--color-pencil)" pointerEvents="none" />
          );
        })}
        {apartOnSheet(
          found?.junctions ?? [],
          (one) => toSheet(frame, width, height, one.place[0], one.place[1]),
          4,
        ).map(({ one: junction, x, y, i }) => {
          return <Ways key={i} x={x} y={y} junction={junction} choose={(pairs) => choose(i, pairs)} />;
        })}
      </svg>
      <p className="absolute top-3 left-4 max-w-[70%] text-pencil text-sm">
        {over ? (
          <>
            The newer issue over the one before. <span className="text-wax-deep">— moved</span>, from{" "}
            <span className="text-pencil">- - where it was</span> · <span className="text-chalk">— new</span> ·{" "}
            <span className="text-red">- - gone</span>. Click a line to leave it as it is.
          </>
        ) : (
          "Click a line to leave it out or take it in."
        )}{" "}
        <span className="text-wax-deep">○ gap closed</span>
        {found && found.junctions.length > 0 && (
          <span className="text-red"> ◎ three or more edges meet: click to choose the way on</span>
        )}
      </p>
      {busy && (
        <p role="status" className="absolute top-3 right-4 text-pencil text-sm">
          Joining …
        </p>
      )}
    </div>
  );
}

function Overlaid({ over, pointedMet, pointMet, turn }: PreviewProps & { over: Overlay[] }) {
  return over.map(({ key, d, tone, dashed, strong, faint, met }) => {
    const can = met.way !== "same";
    return (
      <g
        key={key}
        className={can ? "cursor-pointer" : ""}
        onClick={() => can && turn(met)}
        onPointerEnter={() => can && pointMet(keyOfMet(met))}
        onPointerLeave={() => pointMet(null)}
      >
        {can && (
          <title>
            {met.name}: {met.way}
          </title>
        )}
        {can && (
          <path d={d} stroke="transparent" strokeWidth={12} vectorEffect="non-scaling-stroke" pointerEvents="stroke" />
        )}
        <path
          d={d}
          stroke={tone}
          strokeOpacity={faint && can ? 0.6 : 1}
          strokeWidth={can && pointedMet === keyOfMet(met) ? 3.6 : strong ? 2.2 : 1.3}
          strokeDasharray={dashed ? "5 4" : undefined}
          vectorEffect="non-scaling-stroke"
        />
      </g>
    );
  });
}

/** Marks as they stand on the sheet; those that would lie on one another are one, with how many more it stands for. */
function apartOnSheet<T>(all: T[], place: (one: T) => [number, number], step: number) {
  const taken = new Map<string, { one: T; x: number; y: number; i: number; more: number }>();
  all.forEach((one, i) => {
    const [x, y] = place(one);
    const key = `${Math.round(x / step)} ${Math.round(y / step)}`;
    const before = taken.get(key);
    if (before) before.more++;
    else taken.set(key, { one, x, y, i, more: 0 });
  });
  return [...taken.values()];
}

/** The ways that can be chosen at a junction: none goes on, any one into any other, and of four or more two and two. */
function choices(ways: number): [number, number][][] {
  const one: [number, number][][] = [];
  for (let i = 0; i < ways; i++) for (let j = i + 1; j < ways; j++) one.push([[i, j]]);
  if (ways > 6) return [[], ...one];
  const two = one.flatMap(([a], n) =>
    one.slice(n + 1).flatMap(([b]) => {
      if (!a || !b || a.some((way) => b.includes(way))) return [];
      return [[a, b] as [number, number][]];
    }),
  );
  return [...two, ...one, []];
}

/** A junction with its ways on: those that go on into one another are joined in blue, those that end are short and red. */
function Ways({
  x,
  y,
  junction,
  choose,
}: {
  x: number;
  y: number;
  junction: LinesFound["junctions"][number];
  choose: (pairs: [number, number][]) => void;
}) {
  const all = choices(junction.ways.length);
  const same = (a: [number, number][], b: [number, number][]) =>
    JSON.stringify(a.map((pair) => [...pair].sort()).sort()) ===
    JSON.stringify(b.map((pair) => [...pair].sort()).sort());
  const at = all.findIndex((pairs) => same(pairs, junction.pairs as [number, number][]));
  const going = new Set(junction.pairs.flat());
  const arm = (way: readonly number[], long: number) => [x + (way[0] ?? 0) * long, y - (way[1] ?? 0) * long] as const;
  const next = () => choose(all[(at + 1) % all.length] ?? []);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing holds no button element
    <g
      role="button"
      tabIndex={0}
      aria-label={`${junction.ways.length} edges meet here; ${junction.pairs.length ? `${junction.pairs.length} goes on` : "lines end"}. Choose another way`}
      className="cursor-pointer outline-none focus-visible:stroke-chalk"
      onClick={next}
      onKeyDown={(event) => (event.key === "Enter" || event.key === " ") && next()}
    >
      <circle
        cx={x}
        cy={y}
        r={13}
        fill="var(--color-paper)"
        fillOpacity={0.85}
        stroke="var(--color-red)"
        strokeWidth={1.2}
      />
      {junction.pairs.map(([i, j], n) => {
        const [a, b] = [arm(junction.ways[i] ?? [], 12), arm(junction.ways[j] ?? [], 12)];
        return (
          <path
            key={n}
            d={`M${a.join(" ")}Q${x} ${y} ${b.join(" ")}`}
            fill="none"
            stroke="var(--color-chalk)"
            strokeWidth={2.6}
          />
        );
      })}
      {junction.ways.map((way, i) => {
        if (going.has(i)) return null;
        const [ex, ey] = arm(way, 12);
        const [bx, by] = arm(way, 5);
        return <path key={i} d={`M${bx} ${by}L${ex} ${ey}`} stroke="var(--color-red)" strokeWidth={2.2} />;
      })}
      <title>Click to send the line another way</title>
    </g>
  );
}
