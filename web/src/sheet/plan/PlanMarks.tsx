/** Marks over the plan, drawn at the sheet's own size: dimensions, handles, what acts, faults, the pointer. */

import { useDeferredValue, useMemo } from "react";
import type { JobShown, Line, Point3 } from "../../api/client";
import { formatLength } from "../../ui/figures";
import { useSentence, useShown, useUnits } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { lineById, lineOf, namedMarks, type Path, pathOf, pointAt } from "../../window/things";
import { gathered } from "./cluster";
import { boxOf, type Sheet, toJob, toSheet } from "./frame";
import { Dimensions } from "./PlanDimensions";
import { Facing, Handles } from "./PlanHandles";

export function PlanMarks(sheet: Sheet) {
  const shown = useShown();
  const { selected, draft, plane } = usePart("selected", "draft", "plane");
  if (draft) return null;
  const lines = [...new Set(selected.map((id) => lineOf(shown, id)))].filter((line) => line !== undefined);
  const one = lines.length === 1 ? lines[0] : undefined;
  return (
    <g>
      {one && <Dimensions line={one} run={selected[0] ?? ""} {...sheet} />}
      {lines.length <= 3 && lines.map((line) => <Handles key={line.id} line={line} {...sheet} />)}
      {!plane && <Facing {...sheet} />}
      <Faults {...sheet} />
      <Pointed {...sheet} />
      <Names {...sheet} />
      <Doors {...sheet} dimensioned={one?.id} />
    </g>
  );
}

/**
 * The names of openings and of marks, beside their places: outside a closed line, left of an open one, on the other side
 * where the line's dimensions stand there. Names that would lie over others wait until there is room.
 */
function Doors({ frame, width, height, dimensioned }: Sheet & { dimensioned: string | undefined }) {
  const shown = useShown();
  const taken: [number, number, number][] = [];
  const opened = useMemo(
    () => (shown.job.lines ?? []).filter((line) => line.openings?.length || line.marks?.length),
    [shown],
  );
  const words = opened.flatMap((line) => {
    const openings = (line.openings ?? []).map((one) => ({ name: one.name, at: one.at + one.width / 2, open: true }));
    const marks = namedMarks(line).map((one) => ({ name: one.name, at: one.at, open: false }));
    const path = pathOf(shown, line);
    const length = path.chainages.at(-1) ?? 0;
    // Anticlockwise round a closed line its inside is on the left.
    const area = path.points.reduce((sum, [x, y], i) => {
      const [nx, ny] = path.points[(i + 1) % path.points.length] as Point3;
      return sum + x * ny - nx * y;
    }, 0);
    const right = (line.closed ? area > 0 : true) !== (line.id === dimensioned);
    return [...openings, ...marks].map((one) => {
      const at = one.at % length;
      const [a, b] = [pointAt(path, Math.max(0, at - 1)), pointAt(path, Math.min(length, at + 1))];
      const size = (Math.hypot(b[0] - a[0], b[1] - a[1]) || 1) * (right ? 1 : -1);
      return {
        ...one,
        place: pointAt(path, at),
        aside: [(b[1] - a[1]) / size, (b[0] - a[0]) / size] as const,
        key: `${line.id}${one.name}`,
      };
    });
  });
  return (
    <g className="pointer-events-none" fontSize={12}>
      {words.map(({ key, name, place, open, aside }) => {
        const [x, y] = toSheet(frame, width, height, place[0], place[1]);
        const off = 15 + Math.abs(aside[0]) * name.length * 3;
        const [nx, ny, half] = [x + aside[0] * off, y + aside[1] * off, name.length * 3.3];
        const room = !taken.some(([tx, ty, other]) => Math.abs(tx - nx) < half + other + 4 && Math.abs(ty - ny) < 14);
        if (room) taken.push([nx, ny, half]);
        return (
          <g key={key}>
            {!open && <path d={`M${x} ${y - 5}v10M${x - 5} ${y}h10`} stroke="var(--color-wax)" strokeWidth={1.5} />}
            {room && (
              <text
                x={nx}
                y={ny}
                textAnchor="middle"
                dominantBaseline="central"
                className={`halo ${open ? "fill-pencil" : "fill-wax-deep"}`}
              >
                {name}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** The names of lines nothing runs along yet, and of the others when they are selected alone. */
function Names({ frame, width, height }: Sheet) {
  // After what was changed is on the screen: in a job of thousands of lines their names take a while to go through.
  const shown = useDeferredValue(useShown());
  const bare = useMemo(() => {
    const used = new Set([...(shown.job.runs ?? []), ...(shown.job.rows ?? [])].map((thing) => thing.line));
    return (shown.job.lines ?? [])
      .filter((line) => !used.has(line.id))
      .map((line) => ({ line, ...placeOfName(shown, line) }));
  }, [shown]);
  return (
    <>
      {bare.map(({ line, wide, at }) => {
        const half = line.name.length * 3.5;
        if (wide * frame.scale < 2 * half + 12) return null;
        const [x, y] = toSheet(frame, width, height, at[0], at[1]);
        if (x < -half || y < -10 || x > width + half || y > height + 20) return null;
        return (
          <text
            key={line.id}
            x={x}
            y={y - 7}
            textAnchor="middle"
            fontSize={12}
            className="halo pointer-events-none fill-pencil"
          >
            {line.name}
          </text>
        );
      })}
    </>
  );
}

const places = new WeakMap<Path, { wide: number; at: readonly [number, number] }>();

/** Where the name of a line stands, beside the middle of its first leg or, on a curve, above its middle; and how wide it is, mm. */
function placeOfName(shown: JobShown, line: Line): { wide: number; at: readonly [number, number] } {
  const path = pathOf(shown, line);
  const known = places.get(path);
  if (known) return known;
  const [first, last] = [path.points[0] as Point3, path.points.at(-1) as Point3];
  const wide = path.points.reduce((most, p) => Math.max(most, Math.hypot(p[0] - first[0], p[1] - first[1])), 0);
  const bent = line.legs[0]?.kind !== "straight";
  const end = bent ? last : ((line.legs[0]?.to as Point3) ?? last);
  const middle = bent ? pointAt(path, (path.chainages.at(-1) ?? 0) / 2) : null;
  const found = { wide, at: [middle?.[0] ?? (first[0] + end[0]) / 2, middle?.[1] ?? (first[1] + end[1]) / 2] as const };
  places.set(path, found);
  return found;
}

/** How near to one another, px, marks of faults gather into one. */
const GATHER = 18;

interface FaultMark {
  x: number;
  y: number;
  thing: string;
  severity: "fault" | "warning" | "doubt";
  sentence: string;
}

/** Checks and doubts at their places; those that would lie over one another as one, with their number. */
function Faults({ frame, width, height }: Sheet) {
  const shown = useShown();
  const sentence = useSentence();
  const mark = (point: readonly number[], more: Omit<FaultMark, "x" | "y">): FaultMark => {
    const [x, y] = toSheet(frame, width, height, point[0] as number, point[1] as number);
    return { x, y, ...more };
  };
  // Faults come first among the checks, so that a group has the sign of the worst in it.
  const marks = [
    ...shown.checks.map((check) =>
      mark(check.point, {
        thing: check.thing,
        severity: check.severity === "fault" ? "fault" : "warning",
        sentence: `${sentence(check.what)} ${sentence(check.remedy)}`,
      }),
    ),
    ...shown.lines.flatMap((line) =>
      line.faults.map((fault) =>
        mark(fault.point, {
          thing: line.id,
          severity: "doubt",
          sentence: `${sentence(fault.what)} Its card has what mends it.`,
        }),
      ),
    ),
  ].filter(({ x, y }) => x > -20 && y > -20 && x < width + 20 && y < height + 20);
  return (
    <>
      {gathered(marks, GATHER).map((group) => {
        const [first] = group as [FaultMark, ...FaultMark[]];
        return (
          <g
            key={`${first.thing} ${first.x} ${first.y}`}
            data-pick={first.thing}
            data-gathered={apartBy(group, { frame, width, height })}
            className="cursor-pointer"
          >
            <Sign mark={first} />
            {group.length > 1 && (
              <g pointerEvents="none">
                <circle cx={first.x + 10} cy={first.y - 10} r={7.5} fill="var(--color-ink)" />
                <text
                  x={first.x + 10}
                  y={first.y - 6.5}
                  textAnchor="middle"
                  fontSize={10}
                  fontWeight={700}
                  className="figure fill-paper"
                >
                  {group.length > 99 ? "99+" : group.length}
                </text>
              </g>
            )}
            <title>{toldOf(group)}</title>
          </g>
        );
      })}
    </>
  );
}

/** The part of the job in which gathered marks lie, for a click to come nearer; nothing where they lie on one spot. */
function apartBy(group: readonly FaultMark[], { frame, width, height }: Sheet): string | undefined {
  const box = boxOf(group.map(({ x, y }) => toJob(frame, width, height, x, y)));
  return box && Math.max(box[2] - box[0], box[3] - box[1]) * frame.scale > 2 ? box.join(" ") : undefined;
}

/** What several marks say, the first of them. */
function toldOf(group: readonly FaultMark[]): string {
  const words = group.slice(0, 6).map((one) => one.sentence);
  if (group.length > words.length)
    words.push(`… and ${group.length - words.length} more; a click comes nearer to them.`);
  return words.join("\n");
}

function Sign({ mark: { x, y, thing, severity } }: { mark: FaultMark }) {
  const fault = severity === "fault";
  const colours = {
    fill: fault ? "var(--color-red-wash)" : "var(--color-wax-wash)",
    stroke: fault ? "var(--color-red)" : "var(--color-wax)",
    strokeWidth: 1.4,
  };
  return (
    <>
      {severity === "doubt" ? (
        <circle cx={x} cy={y} r={8.5} {...colours} data-pick={thing} />
      ) : (
        <path d={`M${x} ${y - 11}l9.5 16.5h-19z`} {...colours} data-pick={thing} />
      )}
      <text
        x={x}
        y={y + 4}
        textAnchor="middle"
        fontSize={11}
        fontWeight={700}
        className={fault ? "fill-red" : "fill-wax-deep"}
        pointerEvents="none"
      >
        {fault ? "!" : "?"}
      </text>
    </>
  );
}

/** What is pointed at. It moves with every move of the pointer, and nothing else is drawn anew for it. */
function Pointed({ frame, width, height }: Sheet) {
  const shown = useShown();
  const units = useUnits();
  const pointed = useWindow((state) => state.pointed);
  const line = lineById(shown, pointed?.line);
  if (!pointed || !line) return null;
  const { chainage } = pointed;
  const place = pointAt(pathOf(shown, line), chainage);
  const [x, y] = toSheet(frame, width, height, place[0], place[1]);
  return (
    <g className="pointer-events-none">
      <circle cx={x} cy={y} r={5} fill="var(--color-chalk)" stroke="var(--color-white)" strokeWidth={1.5} />
      <text x={x + 10} y={y - 9} fontSize={12.5} className="halo figure fill-chalk-deep" fontWeight={600}>
        {formatLength(chainage, units)}
      </text>
    </g>
  );
}
