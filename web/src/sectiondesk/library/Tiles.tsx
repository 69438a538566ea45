/** The sections of a library as tiles, family by family: only those in sight are drawn, however many there are. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, type RefObject, useLayoutEffect, useMemo, useRef, useState } from "react";
import { sizeWords } from "../../ui/figures";
import { useUnits } from "../../window/job";
import type { Shelved } from "./shelves";

/** How wide a tile is at the least, how high a row of them and a head are, and the gap between, pixels. */
const [WIDE, HIGH, HEAD, GAP] = [168, 142, 34, 8];
/** How much higher a row is in which a tile says where it comes from. */
const SAID = 32;

const high = (row: Row) => ("head" in row ? HEAD : HIGH + GAP + (row.tiles.some((entry) => entry.standard) ? SAID : 0));

type Row = { head: string } | { tiles: Shelved[] };

export function Tiles({
  entries,
  box,
  picked,
  pick,
  largest,
}: {
  entries: Shelved[];
  /** What scrolls. */
  box: RefObject<HTMLElement | null>;
  picked: string | undefined;
  pick: (entry: Shelved) => void;
  /** What is as large as a tile; null where each section is. */
  largest: number | null;
}) {
  const here = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState({ above: 0, columns: 1 });
  useLayoutEffect(() => {
    const look = () => {
      const above = here.current?.offsetTop ?? 0;
      const columns = Math.max(1, Math.floor(((here.current?.clientWidth ?? WIDE) + GAP) / (WIDE + GAP)));
      setPlace((now) => (now.above === above && now.columns === columns ? now : { above, columns }));
    };
    look();
    const watch = new ResizeObserver(look);
    if (here.current) watch.observe(here.current);
    return () => watch.disconnect();
  });
  const { columns } = place;
  const rows = useMemo(() => {
    const families = new Map<string, Shelved[]>();
    for (const entry of entries) {
      const of = families.get(entry.family);
      if (of) of.push(entry);
      else families.set(entry.family, [entry]);
    }
    const found: Row[] = [];
    for (const [head, of] of families) {
      found.push({ head });
      for (let i = 0; i < of.length; i += columns) found.push({ tiles: of.slice(i, i + columns) });
    }
    return found;
  }, [entries, columns]);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: (index) => high(rows[index] as Row),
    overscan: 2,
    scrollMargin: place.above,
  });
  // Rows of other sections are as high as others were.
  useLayoutEffect(() => list.measure(), [rows, list]);
  return (
    <div ref={here} className="relative" style={{ height: list.getTotalSize() }}>
      {list.getVirtualItems().map(({ index, start }) => {
        const row = rows[index] as Row;
        return (
          <div
            key={index}
            className="absolute top-0 left-0 w-full"
            style={{ transform: `translateY(${start - place.above}px)` }}
          >
            {"head" in row ? (
              <h3 className="border-rule border-b pt-1 pb-0.5 text-pencil text-sm">{row.head}</h3>
            ) : (
              <div
                className="grid gap-2"
                style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, height: high(row) - GAP }}
              >
                {row.tiles.map((entry) => (
                  <Tile key={entry.key} entry={entry} on={picked === entry.key} pick={pick} largest={largest} />
                ))}
              </div>
            )}
          </div>
        );
      })}
    </div>
  );
}

const Tile = memo(function Tile({
  entry,
  on,
  pick,
  largest,
}: {
  entry: Shelved;
  on: boolean;
  pick: (entry: Shelved) => void;
  largest: number | null;
}) {
  const units = useUnits();
  const { section } = entry;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => pick(entry)}
      className={`cursor-pointer rounded-[3px] border p-2 text-left ${on ? "border-chalk bg-chalk-wash" : "border-rule bg-white hover:border-edge"}`}
    >
      <Outline path={entry.path} width={section.width} height={section.height} size={84} on={on} largest={largest} />
      <span className="mt-1.5 block truncate text-sm" title={section.name}>
        {section.name}
      </span>
      <span className="figure block truncate text-pencil text-sm">{sizeWords(section, units)}</span>
      {entry.standard && <span className="line-clamp-2 text-pencil text-xs">{entry.standard}</span>}
    </button>
  );
});

export function Outline({
  path,
  width,
  height,
  size,
  on,
  largest = null,
}: {
  path: string;
  width: number;
  height: number;
  size: number;
  on?: boolean;
  largest?: number | null;
}) {
  const scale = size / (largest ?? Math.max(width, height));
  return (
    <svg
      width="100%"
      height={size + 4}
      viewBox={`${-(size * 1.25 - width * scale) / 2 - 2} -2 ${size * 1.25 + 4} ${size + 4}`}
      role="img"
      aria-label="Outline"
    >
      <g transform={`translate(0 ${(size + height * scale) / 2}) scale(${scale} ${-scale})`}>
        <path
          d={path}
          fill={on ? "var(--color-chalk-pale)" : "var(--color-timber)"}
          stroke={on ? "var(--color-chalk-deep)" : "var(--color-ink)"}
          strokeWidth={1.3}
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
    </svg>
  );
}
