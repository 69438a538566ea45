/** The lengths of edges, the radii of arcs and the angles at picked points, each typed where it stands on the drawing. */
import { useContext, useState } from "react";
import { type Edit, problemOf, type Section } from "../api/client";
import { readLength } from "../ui/fields";
import { formatAngle, formatLength } from "../ui/figures";
import { JobId, useChanges, useUnits } from "../window/job";
import { type Part, useWindow } from "../window/store";
import { type DeskFrame, type Drawn, onDesk, type Spot, samePart } from "./frame";

interface Figure {
  key: string;
  at: Spot;
  value: number;
  /** Degrees where it is an angle, else mm. */
  angle: boolean;
  what: Record<string, unknown>;
  label: string;
  held: boolean;
}

export function TypedFigures({
  section,
  frame,
  drawn,
  parts,
}: {
  section: Section;
  frame: DeskFrame;
  drawn: Drawn;
  parts: Part[];
}) {
  const units = useUnits();
  const [typing, setTyping] = useState<string | null>(null);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const figures = [...lengths(frame, drawn, parts), ...angles(section, frame, drawn, parts)];
  return (
    <g fontSize={12.5} className="figure">
      {figures.map((figure) => {
        const [x, y] = figure.at;
        const text = figure.angle ? formatAngle(figure.value) : formatLength(figure.value, fine).replace(/\.0$/, "");
        const words = `${figure.what.kind === "radius" ? "R " : ""}${text}${figure.held ? " ▪" : ""}`;
        if (typing === figure.key)
          return <Typed key={figure.key} section={section} figure={figure} text={text} close={() => setTyping(null)} />;
        return (
          // biome-ignore lint/a11y/useSemanticElements: a drawing has no buttons of its own
          <text
            key={figure.key}
            x={x}
            y={y + 4}
            textAnchor="middle"
            role="button"
            tabIndex={0}
            aria-label={`${figure.label}: ${words}`}
            className={`halo cursor-text ${figure.held ? "fill-wax-deep font-semibold" : "fill-ink"}`}
            onPointerDown={(event) => event.stopPropagation()}
            onClick={() => setTyping(figure.key)}
            onKeyDown={(event) => {
              if (event.key !== "Enter") return;
              event.preventDefault();
              setTyping(figure.key);
            }}
          >
            {words}
            <title>{figure.held ? `${figure.label}, held` : figure.label}: click to type it</title>
          </text>
        );
      })}
    </g>
  );
}

/** Where a figure stands beside an edge: outside the section. */
function beside(frame: DeskFrame, drawn: Drawn, { loop, index }: Omit<Part, "kind">, away: number): Spot {
  const { points, edges } = drawn.loops[loop] as Drawn["loops"][number];
  const [a, b] = [
    onDesk(frame, points[index]?.at as Spot),
    onDesk(frame, points[(index + 1) % points.length]?.at as Spot),
  ];
  const [x, y] = onDesk(frame, edges[index]?.middle as Spot);
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  // The outline goes round with its area on one side; y runs down.
  const sense = areaOf(points.map((point) => point.at as Spot)) > 0 === (loop === 0) ? 1 : -1;
  const [nx, ny] = [(-(b[1] - a[1]) / long) * sense, ((b[0] - a[0]) / long) * sense];
  // Words are wider than they are high.
  return [x + nx * (away + 12), y + ny * away];
}

function areaOf(points: Spot[]): number {
  return points.reduce((sum, [x, y], i) => {
    const [nx, ny] = points[(i + 1) % points.length] as Spot;
    return sum + x * ny - y * nx;
  }, 0);
}

function lengths(frame: DeskFrame, drawn: Drawn, parts: Part[]): Figure[] {
  return drawn.loops.flatMap((loop, l) =>
    loop.edges.flatMap((edge, i): Figure[] => {
      const picked = parts.some((part) => samePart(part, { kind: "edge", loop: l, index: i }));
      if (edge.kind === "curve" || (edge.length * frame.scale < 46 && !picked)) return [];
      const [a, b] = [
        [l, i],
        [l, (i + 1) % loop.points.length],
      ];
      const radius = edge.kind === "arc";
      const of = radius ? { kind: "radius", edge: a } : { kind: "length", a, b, way: "straight" };
      const held = drawn.held.some(({ held: one }) =>
        radius
          ? one.kind === "radius" && same(one.edge, a)
          : one.kind === "length" && one.way !== "across" && one.way !== "up" && pair(one, a, b),
      );
      const at = beside(frame, drawn, { loop: l, index: i }, 15);
      const value = radius ? (edge.radius ?? 0) : edge.length;
      const label = `${radius ? "Radius of arc" : "Length of edge"} ${i + 1}${l ? ` of hole ${l}` : ""}`;
      return [{ key: `${l} ${i}`, at, value, angle: false, what: of, label, held }];
    }),
  );
}

const same = (a: readonly number[] | undefined, b: readonly (number | undefined)[] | undefined) =>
  a?.[0] === b?.[0] && a?.[1] === b?.[1];
const pair = (one: { a: number[]; b: number[] }, a?: number[], b?: number[]) =>
  (same(one.a, a) && same(one.b, b)) || (same(one.a, b) && same(one.b, a));

function angles(section: Section, frame: DeskFrame, drawn: Drawn, parts: Part[]): Figure[] {
  return parts.flatMap((part): Figure[] => {
    const point = part.kind === "point" ? drawn.loops[part.loop]?.points[part.index] : undefined;
    if (!point || point.smooth) return [];
    const place = [part.loop, part.index];
    const held = drawn.held.some(({ held: one }) => one.kind === "angle" && same(one.point, place));
    const [x, y] = onDesk(frame, point.at as Spot);
    const middle: Spot = [
      frame.left + (section.width * frame.scale) / 2,
      frame.foot - (section.height * frame.scale) / 2,
    ];
    const far = Math.hypot(middle[0] - x, middle[1] - y) || 1;
    const at: Spot = [x + ((middle[0] - x) / far) * 30, y + ((middle[1] - y) / far) * 24];
    return [
      {
        key: `angle ${part.loop} ${part.index}`,
        at,
        value: point.angle,
        angle: true,
        what: { kind: "angle", point: place },
        label: `Angle at point ${part.index + 1}`,
        held,
      },
    ];
  });
}

/** The figure being typed, in its own place. */
function Typed({
  section,
  figure,
  text,
  close,
}: {
  section: Section;
  figure: Figure;
  text: string;
  close: () => void;
}) {
  const { edit } = useChanges();
  const units = useUnits();
  const job = useContext(JobId);
  const [wrong, setWrong] = useState("");
  const [x, y] = figure.at;
  const take = async (typed: string) => {
    try {
      const value = figure.angle
        ? Number(typed.replace("°", "").replace(",", ".").trim())
        : await readLength(typed, units.system ?? "mm", job);
      if (!Number.isFinite(value)) throw new Error(`“${typed}” is not an angle: type degrees, such as 45.`);
      const problem = await edit([
        { kind: "set_outline_figure", section: section.id, figure: { ...figure.what, value } } as unknown as Edit,
      ]);
      if (problem) setWrong(problem.detail);
      else close();
      if (problem) useWindow.getState().set({ problem: null });
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
  };
  return (
    <foreignObject x={x - 130} y={y - 13} width={260} height={120} onPointerDown={(event) => event.stopPropagation()}>
      <div className="flex flex-col items-center">
        <input
          // biome-ignore lint/a11y/noAutofocus: it was asked for by the click that put it there
          autoFocus
          aria-label={figure.label}
          aria-invalid={wrong !== ""}
          className={`figure h-6 w-20 rounded-[3px] border bg-white px-1.5 text-center text-[13px] ${wrong ? "border-red" : "border-chalk"}`}
          defaultValue={text.replace("°", "")}
          onFocus={(event) => event.target.select()}
          onBlur={close}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") void take(event.currentTarget.value);
            if (event.key === "Escape") close();
          }}
        />
        {wrong && (
          <p role="alert" className="mt-1 rounded-[3px] border border-red bg-red-wash px-2 py-1 text-[12px] text-ink">
            {wrong}
          </p>
        )}
      </div>
    </foreignObject>
  );
}
