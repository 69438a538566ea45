/** The openings of a line on the rod: dragged along it, or wider and narrower by their ends. */
import { useRef } from "react";
import type { Edit, Line, Opening } from "../api/client";
import { formatLength } from "../ui/figures";
import { useChanges, useUnits } from "../window/job";
import { FOOT, type Scale, spans, TOP } from "./measure";

interface Drag {
  index: number;
  grip: "all" | "begin" | "end";
  from: number;
  opening: Opening;
}

export function OpeningsOnRod({
  line,
  length,
  x,
  invert,
  passed,
}: {
  line: Line;
  length: number;
  x: Scale;
  invert: (px: number) => number;
  /** Whether what lies on the rod passes over the openings, and so is not cut there. */
  passed: boolean;
}) {
  const units = useUnits();
  const { edit, preview } = useChanges();
  const drag = useRef<Drag | null>(null);
  const made = useRef<Edit | null>(null);
  const openings = line.openings ?? [];

  const chainage = (event: React.PointerEvent<SVGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    return invert(event.clientX - (box?.left ?? 0));
  };
  const down = (index: number, grip: Drag["grip"]) => (event: React.PointerEvent<SVGElement>) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { index, grip, from: chainage(event), opening: openings[index] as Opening };
  };
  const move = (event: React.PointerEvent<SVGElement>) => {
    const now = drag.current;
    if (!now) return;
    event.stopPropagation();
    // To the nearest 10 mm, or with Alt to the millimetre.
    const step = event.altKey ? 1 : 10;
    const by = Math.round((chainage(event) - now.from) / step) * step;
    let { at, width } = now.opening;
    if (now.grip === "all") at += by;
    else if (now.grip === "begin") [at, width] = [at + by, width - by];
    else width += by;
    if (line.closed) at = ((at % length) + length) % length;
    else {
      at = Math.max(0, Math.min(at, length - width));
      width = Math.min(width, length - at);
    }
    if (width < 1) return;
    const changes = { all: { at }, begin: { at, width }, end: { width } }[now.grip];
    made.current = { kind: "set_opening", line: line.id, opening: now.opening.id ?? "", changes };
    preview([made.current]);
  };
  const up = (event: React.PointerEvent<SVGElement>) => {
    const wanted = made.current;
    if (!drag.current) return;
    event.stopPropagation();
    drag.current = null;
    made.current = null;
    if (wanted) void edit([wanted]).then((problem) => problem && preview(null));
  };
  const grips = { onPointerMove: move, onPointerUp: up, onClick: (event: React.MouseEvent) => event.stopPropagation() };
  return (
    <>
      {openings.map((opening, index) => {
        const parts = spans(opening.at, opening.at + opening.width, length);
        return parts.map(([from, to], part) => {
          const [left, right] = [x(from), x(to)];
          const text = `${opening.name} ${formatLength(opening.width, units)}`;
          const wide = !passed && right - left > text.length * 6.2;
          return (
            <g key={`${opening.id}${part}`}>
              <rect
                x={left}
                y={TOP - 1}
                width={Math.max(2, right - left)}
                height={FOOT - 22 - TOP}
                fill={passed ? "transparent" : "var(--color-paper)"}
                stroke="var(--color-pencil)"
                strokeDasharray="4 3"
                // Over a piece that goes on, a click is for the piece.
                pointerEvents={passed ? "none" : undefined}
                className="cursor-grab"
                data-opening={index}
                onPointerDown={down(index, "all")}
                {...grips}
              >
                <title>{`${opening.name}, from ${formatLength(opening.at, units)}, ${formatLength(opening.width, units)} wide: drag it, or its ends`}</title>
              </rect>
              {part === 0 && (
                <text
                  x={Math.max(opening.name.length * 3.2, (left + right) / 2)}
                  // In the gap where it fits there, else under it.
                  y={wide ? TOP + 34 : FOOT - 9}
                  textAnchor="middle"
                  fontSize={12}
                  className={`figure fill-ink ${wide ? "" : "halo-bench"}`}
                  pointerEvents="none"
                >
                  {wide ? text : opening.name}
                </text>
              )}
              {(
                [
                  ["begin", left],
                  ["end", right],
                ] as const
              ).map(([grip, px]) =>
                (grip === "begin" && part > 0) || (grip === "end" && part < parts.length - 1) ? null : (
                  <rect
                    key={grip}
                    x={px - 4}
                    y={TOP - 1}
                    width={8}
                    height={FOOT - 22 - TOP}
                    fill="transparent"
                    className="cursor-ew-resize"
                    data-grip={`${index} ${grip}`}
                    onPointerDown={down(index, grip)}
                    {...grips}
                  />
                ),
              )}
            </g>
          );
        });
      })}
    </>
  );
}
