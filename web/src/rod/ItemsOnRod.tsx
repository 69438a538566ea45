/** The items of a row on the rod: picked by a click, dragged along it and held there; the bays between them in figures. */
import { useRef } from "react";
import type { Edit, Row, RowFigures } from "../api/client";
import { countOf, STRIDE } from "../sheet/items";
import { formatLength } from "../ui/figures";
import { useChanges, useUnits } from "../window/job";
import { usePart } from "../window/store";
import { FOOT, type Scale, TOP } from "./measure";

/** More items than this are only seen, and not taken hold of one by one. */
const MOST = 400;
/** Room that the figure of a bay needs, px. */
const BAY = 46;

/** The edit by which an item is held at a place. */
export const heldAt = (row: string, at: number, to: number): Edit => ({ kind: "hold_item", row, at, to });

export function ItemsOnRod({
  row,
  figures,
  places,
  length,
  x,
  invert,
}: {
  row: Row;
  figures: RowFigures;
  places: Float32Array;
  length: number;
  x: Scale;
  invert: (px: number) => number;
}) {
  const units = useUnits();
  const { edit, preview } = useChanges();
  const { select, piece } = usePart("select", "piece");
  const drag = useRef<{ at: number; moved: boolean } | null>(null);
  const made = useRef<Edit | null>(null);
  const count = countOf(places);
  const at = (number: number) => places[number * STRIDE + 4] ?? 0;
  const letter = (number: number) => figures.items[places[number * STRIDE + 5] ?? 0]?.letter ?? "";
  const several = figures.items.filter((item) => item.count > 0).length > 1;
  const held = new Set(figures.held.map((one) => one.number));
  const middle = TOP + 37;
  const bays: { middle: number; size: number; key: number }[] = [];
  for (let number = 1; number < count && count <= MOST; number++) {
    const [from, to] = [at(number - 1), at(number)];
    // Round a closed line the row may go over the start of it.
    if (to > from && x(to) - x(from) > BAY) bays.push({ middle: (x(from) + x(to)) / 2, size: to - from, key: number });
  }
  const move = (event: React.PointerEvent<SVGElement>) => {
    if (!drag.current) return;
    event.stopPropagation();
    const left = event.currentTarget.ownerSVGElement?.getBoundingClientRect().left ?? 0;
    const step = event.altKey ? 1 : 10;
    const to = Math.min(length, Math.max(0, Math.round(invert(event.clientX - left) / step) * step));
    if (!drag.current.moved && Math.abs(x(to) - x(drag.current.at)) < 4) return;
    drag.current.moved = true;
    made.current = heldAt(row.id, drag.current.at, to);
    preview([made.current]);
  };
  const up = (event: React.PointerEvent<SVGElement>) => {
    if (!drag.current) return;
    event.stopPropagation();
    const wanted = made.current;
    drag.current = null;
    made.current = null;
    if (wanted) void edit([wanted]).then((problem) => problem && preview(null));
  };
  const seen = Array.from({ length: Math.min(count, MOST) }, (_, number) => number);
  return (
    <g>
      {bays.map((bay) => (
        <text
          key={bay.key}
          x={bay.middle}
          y={middle + 4}
          textAnchor="middle"
          fontSize={11}
          className="figure fill-pencil"
        >
          {formatLength(bay.size, units)}
        </text>
      ))}
      {count > MOST && <ItemMarks places={places} x={x} shape={(place) => `M${place} ${TOP + 20}v34`} />}
      {count <= MOST &&
        seen.map((number) => {
          const place = x(at(number));
          const [picked, pinned] = [piece === number, held.has(number)];
          return (
            <g
              key={number}
              data-item={number}
              className="cursor-ew-resize"
              onPointerDown={(event) => {
                event.stopPropagation();
                event.currentTarget.setPointerCapture(event.pointerId);
                drag.current = { at: at(number), moved: false };
              }}
              onPointerMove={move}
              onPointerUp={up}
              onClick={(event) => {
                event.stopPropagation();
                select([row.id], number);
              }}
            >
              <rect x={place - 6} y={TOP} width={12} height={FOOT - 24 - TOP} fill="transparent" />
              <path
                d={`M${place - 3.5} ${TOP + 20}h7v34h-7z`}
                fill={picked ? "var(--color-chalk)" : pinned ? "var(--color-wax-wash)" : "var(--color-chalk-pale)"}
                stroke={pinned ? "var(--color-wax-deep)" : "var(--color-chalk-deep)"}
                strokeWidth={pinned || picked ? 1.6 : 1}
              />
              {pinned && <path d={`M${place - 4} ${TOP + 10}h8l-4 7z`} fill="var(--color-wax-deep)" />}
              {several && (
                <text x={place} y={TOP + (pinned ? 8 : 15)} textAnchor="middle" fontSize={11} className="fill-ink">
                  {letter(number)}
                </text>
              )}
              <title>
                {`Item ${number + 1} at ${formatLength(at(number), units)}${pinned ? ", held" : ""}: drag it to hold it elsewhere`}
              </title>
            </g>
          );
        })}
    </g>
  );
}

/** Items that are only seen, each by a shape at its place. */
export function ItemMarks({ places, x, shape }: { places: Float32Array; x: Scale; shape: (place: number) => string }) {
  const parts: string[] = [];
  let last = Number.NEGATIVE_INFINITY;
  for (let i = 4; i < places.length; i += STRIDE) {
    const place = x(places[i] ?? 0);
    // Marks closer than a pixel would only be a smear.
    if (place - last < 1) continue;
    last = place;
    parts.push(shape(place));
  }
  return (
    <path
      d={parts.join("")}
      fill="var(--color-paper)"
      stroke="var(--color-lath-ink)"
      strokeWidth={1}
      pointerEvents="none"
    />
  );
}
