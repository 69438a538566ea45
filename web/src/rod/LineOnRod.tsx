/** What a line itself shows on the rod: its legs by kind, radii, tangent points, and heights where it rises. */
import type { LineFigures, Mark } from "../api/client";
import { formatAngle, formatLength } from "../ui/figures";
import { useUnits } from "../window/job";
import { FOOT, type Scale, TOP } from "./measure";

const words: Record<string, string> = {
  arc: "arc",
  helix: "helix",
  cord: "cord",
  curve: "curve",
  through: "spline through points",
};

/** Bent legs: a shallow bow over the lath, with the radius and the turn; a tick where one runs into the next in line. */
export function LegsOnRod({ line, x, named }: { line: LineFigures; x: Scale; named: boolean }) {
  const units = useUnits();
  const corners = line.bends.map((bend) => bend.chainage);
  let last = Number.NEGATIVE_INFINITY;
  return (
    <g>
      {line.legs.map((leg, i) => {
        const [from, to] = [x(leg.begin), x(leg.end)];
        const next = line.legs[i + 1];
        const tangent = next && !corners.some((at) => Math.abs(at - leg.end) < 1e-3);
        const kinds = tangent && (next.kind !== leg.kind || next.rounding !== leg.rounding || leg.kind !== "straight");
        const found =
          leg.radius !== null && leg.kind === "arc"
            ? `R ${formatLength(leg.radius ?? 0, units)} · ${formatAngle(leg.turn)}`
            : leg.radius !== null && leg.radius !== undefined
              ? `${words[leg.kind]} R ${formatLength(leg.radius, units)}`
              : (words[leg.kind] ?? "");
        const bent = leg.kind !== "straight";
        const room = bent && named && to - from > found.length * 6.4 && (from + to) / 2 - last > 40;
        if (room) last = (from + to) / 2;
        return (
          <g key={i}>
            {bent && (
              <path
                d={`M${from} ${TOP + 21}Q${(from + to) / 2} ${TOP - 3} ${to} ${TOP + 21}`}
                fill="var(--color-chalk)"
                fillOpacity={0.13}
                stroke="var(--color-chalk)"
                strokeWidth={1.4}
              >
                <title>{`${leg.rounding ? "rounded corner" : words[leg.kind]}, ${found}, ${formatLength(leg.end - leg.begin, units)} long`}</title>
              </path>
            )}
            {kinds && (
              <path
                d={`M${to} ${TOP}V${FOOT - 24}`}
                stroke="var(--color-chalk)"
                strokeDasharray="1 3"
                strokeWidth={1.1}
              >
                <title>tangent point</title>
              </path>
            )}
            {room && (
              <text
                x={(from + to) / 2}
                // Under the lath, where no item stands.
                y={FOOT - 9}
                textAnchor="middle"
                fontSize={12}
                className="halo-bench figure fill-chalk-deep"
                pointerEvents="none"
              >
                {found}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** The heights of a line that rises, as a profile on the lath, with the least and greatest. */
export function HeightsOnRod({ line, x }: { line: LineFigures; x: Scale }) {
  const units = useUnits();
  const heights = line.heights as [number, number][];
  if (!heights.length) return null;
  const all = heights.map(([, z]) => z);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const y = (z: number) => FOOT - 30 - ((z - low) / (high - low || 1)) * (FOOT - 24 - TOP - 36);
  const ends = [heights[0], heights.at(-1)] as [[number, number], [number, number]];
  return (
    <g pointerEvents="none">
      <path
        d={`M${x(ends[0][0])} ${FOOT - 25}L${heights.map(([s, z]) => `${x(s)} ${y(z)}`).join("L")}L${x(ends[1][0])} ${FOOT - 25}Z`}
        fill="var(--color-lath-ink)"
        fillOpacity={0.18}
      />
      <path
        d={`M${heights.map(([s, z]) => `${x(s)} ${y(z)}`).join("L")}`}
        fill="none"
        stroke="var(--color-lath-ink)"
        strokeWidth={1.8}
      />
      {ends.map(([s, z], i) => (
        <text
          key={i}
          x={x(s) + (i ? -5 : 5)}
          // Beside the profile, where the bows of bent legs leave room.
          y={z > (low + high) / 2 ? y(z) + 14 : y(z) - 5}
          textAnchor={i ? "end" : "start"}
          fontSize={12}
          className="figure halo-lath fill-ink"
        >
          {z > low || !i ? "↑ " : ""}
          {formatLength(z, units)}
        </text>
      ))}
    </g>
  );
}

export function MarksOnRod({ marks, x }: { marks: readonly Mark[]; x: Scale }) {
  return (
    <g pointerEvents="none">
      {marks.map((mark) => (
        <g key={mark.name}>
          <path d={`M${x(mark.at)} ${TOP - 2}V${FOOT - 21}`} stroke="var(--color-wax)" strokeWidth={1.4} />
          <text x={x(mark.at)} y={FOOT - 9} textAnchor="middle" fontSize={12} className="halo-bench fill-wax-deep">
            {mark.name}
          </text>
        </g>
      ))}
    </g>
  );
}
