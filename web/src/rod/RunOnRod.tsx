/** What a run shows on the rod: its pieces with their tags and lengths, and its corners with their angles. */
import type { CornerFigures, Opening, RunFigures } from "../api/client";
import { formatAngle, formatLength } from "../ui/figures";
import type { useUnits } from "../window/job";
import { usePart } from "../window/store";
import { FOOT, type Scale, spans, TOP } from "./measure";

export function Pieces({
  run,
  length,
  x,
  piece,
  units,
  openings,
}: {
  run: RunFigures;
  length: number;
  x: Scale;
  piece: number | null;
  units: ReturnType<typeof useUnits>;
  openings: readonly Opening[];
}) {
  const edges = openings.flatMap((one) =>
    spans(one.at, one.at + one.width, length).flatMap(([from, to]) => [x(from), x(to)]),
  );
  return (
    <>
      {run.pieces.map((one, index) =>
        // A return lies across the line, and takes up nothing of it.
        (one.part ? [] : spans(one.begin, one.end, length)).map(([from, to], part) => {
          const wide = x(to) - x(from);
          const on = piece === index;
          const text = formatLength(one.length, units);
          const [low, high] = clearPart(x(from), x(to), edges);
          const middle = (low + high) / 2;
          return (
            <g key={`${one.tag}${part}`} className={on ? "text-chalk-deep" : "text-ink"}>
              {on && (
                <rect
                  x={x(from)}
                  y={TOP}
                  width={wide}
                  height={FOOT - 24 - TOP}
                  fill="var(--color-chalk)"
                  fillOpacity={0.22}
                />
              )}
              {wide > one.tag.length * 8 + 4 && (
                <text x={middle} y={TOP + 30} textAnchor="middle" fontSize={13.5} fontWeight={600} fill="currentColor">
                  {one.tag}
                </text>
              )}
              {wide > text.length * 6.6 + 4 && (
                <text
                  x={middle}
                  y={TOP + 46}
                  textAnchor="middle"
                  fontSize={12.5}
                  className="figure"
                  fill="currentColor"
                >
                  {text}
                </text>
              )}
            </g>
          );
        }),
      )}
    </>
  );
}

/** The widest part between two places, pixels, that no edge of an opening crosses, so that a tag can be read there. */
function clearPart(from: number, to: number, edges: readonly number[]): [number, number] {
  const stops = [from, ...edges.filter((edge) => edge > from && edge < to).sort((a, b) => a - b), to];
  let best: [number, number] = [from, from];
  stops.slice(1).forEach((stop, i) => {
    const before = stops[i] ?? from;
    if (stop - before > best[1] - best[0]) best = [before, stop];
  });
  return best;
}

/** Corners: solid lines for external, dashed for internal, each with its chevron and angle. */
export function Corners({ corners, x }: { corners: CornerFigures[]; x: Scale }) {
  const { corners: picked, pickCorner } = usePart("corners", "pickCorner");
  let last = Number.NEGATIVE_INFINITY;
  return (
    <g className="text-ink">
      {corners.map((corner, index) => {
        const place = x(corner.chainage);
        // How it is made is said where it is not the usual.
        const made = corner.made === "mitred" ? "" : ` ${corner.made}`;
        const label = formatAngle(corner.angle) + made;
        const room = place - last > label.length * 6 + 22;
        if (room) last = place;
        const inward = corner.kind === "internal" || corner.kind === "falling";
        const on = corner.vertex !== null && picked.includes(corner.vertex);
        const pick = (more: boolean) => corner.vertex !== null && pickCorner(corner.vertex, more);
        return (
          <g
            key={index}
            {...(corner.vertex !== null && {
              role: "button",
              tabIndex: 0,
              "aria-pressed": on,
              "aria-label": `Corner ${index + 1}, ${corner.kind}, ${label}`,
            })}
            className={corner.vertex === null ? undefined : on ? "cursor-pointer text-chalk-deep" : "cursor-pointer"}
            onClick={(event) => {
              if (corner.vertex === null) return;
              event.stopPropagation();
              pick(event.shiftKey);
            }}
            onKeyDown={(event) => {
              if (event.key !== "Enter" && event.key !== " ") return;
              event.preventDefault();
              event.stopPropagation();
              pick(event.shiftKey);
            }}
          >
            {/* A line is too thin to be hit. */}
            <rect
              x={place - 5}
              y={TOP}
              width={10}
              height={FOOT - TOP}
              fill={on ? "var(--color-chalk)" : "transparent"}
              fillOpacity={0.25}
            />
            <path
              d={`M${place} ${TOP}V${FOOT - 24}`}
              stroke="currentColor"
              strokeWidth={1.3}
              strokeDasharray={inward ? "4 3" : undefined}
            />
            {room && (
              <g transform={`translate(${Math.max(7, place)} ${FOOT - 10})`}>
                <path
                  d={inward ? "M-5 -4L0 2L5 -4" : "M-5 2L0 -4L5 2"}
                  fill="none"
                  stroke="currentColor"
                  strokeWidth={1.5}
                />
                <text x={9} y={3.5} fontSize={12} className="figure" fill="var(--color-pencil)">
                  {label}
                </text>
              </g>
            )}
            <title>{`${corner.kind} corner, ${formatAngle(corner.angle)}, ${corner.made}`}</title>
          </g>
        );
      })}
    </g>
  );
}
