/** The cutting list: a sheet for the saw, each row with the piece drawn as it lies on the table. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Words } from "../ui/choices";
import { areaUnit, count, formatLength, formatMass, formatPainted, grouped, massUnit } from "../ui/figures";
import { walkRows } from "../ui/walk";
import { useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { cutColumns } from "./Columns";
import { CuttingFilter, isKept, sumOf, useWanted } from "./CuttingFilter";
import { useLayout, WIDE } from "./layout";
import { useListing } from "./listing";
import { type Column, entriesOf, holds, partsOf } from "./ordering";
import { PartHead } from "./PartHeads";
import { PieceRow } from "./PieceRow";
import { Schedule } from "./Schedule";

/** About how high an entry is, pixels, until it has been drawn. */
const HIGH = { head: 40, piece: 27 };

export function CuttingList() {
  const shown = useShown();
  const units = useUnits();
  const set = useWindow((state) => state.set);
  const selected = useWindow((state) => state.selected[0]);
  const piece = useWindow((state) => state.piece);
  const { words, only, by, sorted, want } = useWanted();
  const layout = useLayout();
  const { shows, frame } = layout;
  const { listed: job, missing, stale, problem, again } = useListing();
  const parts = useMemo(() => partsOf(job, { words, only, by, sorted }), [job, words, only, by, sorted]);
  const entries = useMemo(() => entriesOf(parts), [parts]);
  const scrolled = useRef<HTMLDivElement>(null);
  const take = useCallback(
    (box: HTMLDivElement | null) => {
      scrolled.current = box;
      frame(box);
    },
    [frame],
  );
  const table = useRef<HTMLTableElement>(null);
  const [above, setAbove] = useState(0);
  useLayoutEffect(() => setAbove((table.current?.offsetTop ?? 0) + (table.current?.tHead?.offsetHeight ?? 0)));
  const list = useVirtualizer({
    count: entries.length,
    getScrollElement: () => scrolled.current,
    estimateSize: (index) => (entries[index]?.at ? HIGH.piece : HIGH.head),
    getItemKey: (index) => {
      const entry = entries[index];
      return entry?.at ? `${entry.part.id} ${entry.at.run} ${entry.at.row.tags[0]}` : `head ${entry?.part.id}`;
    },
    overscan: 12,
    scrollMargin: above,
    scrollPaddingStart: 56,
    scrollPaddingEnd: 40,
  });
  // What is found, or set out otherwise, is seen from its beginning.
  useEffect(() => {
    if (scrolled.current) scrolled.current.scrollTop = 0;
  }, [words, only, by]);
  const first = entries.findIndex(
    (entry) => selected && holds(entry.part, selected) && (!entry.at || entry.at.run === selected),
  );
  useEffect(() => {
    const box = scrolled.current;
    if (first < 0 || !box) return;
    const [top, bottom] = [box.scrollTop + 40, box.scrollTop + box.clientHeight];
    // A run of which something can be seen is where it was clicked, and stays there.
    const seen = list
      .getVirtualItems()
      .some((item) => entries[item.index]?.at?.run === selected && item.start >= top && item.end <= bottom);
    if (!seen) list.scrollToIndex(first, { align: "start" });
  }, [first, list, entries, selected]);
  // The rod comes when a piece is picked, and takes a part of the sheet: the piece stays in sight.
  const chosen = entries.findIndex(
    ({ at }) => at && at.run === selected && piece !== null && at.row.pieces.includes(piece),
  );
  const { height } = layout;
  useEffect(() => {
    if (chosen >= 0 && height > 0) list.scrollToIndex(chosen, { align: "auto" });
  }, [chosen, height, list]);
  const shownItems = list.getVirtualItems();
  const things = Object.keys(shown.cuts).length;
  if (!things && !shown.rows.length) {
    return (
      <div className="p-6">
        <h2 className="font-semibold text-lg">Cutting list</h2>
        <p className="mt-2 text-pencil">
          Nothing to cut yet. {shown.job.lines?.length ? "" : "Draw a line first, along a wall or an edge. "}
          {shown.job.sections?.length ? "" : "Pick a section from the library. "}
          Run a section along a line and its pieces are listed here.
        </p>
        <p className="mt-2 flex gap-4">
          {shown.job.lines?.length ? null : (
            <Words onClick={() => useWindow.getState().show("plan")}>Go to the plan</Words>
          )}
          {shown.job.sections?.length ? null : (
            <Words onClick={() => useWindow.getState().show("library")}>Pick a section</Words>
          )}
          {shown.job.lines?.length && shown.job.sections?.length ? (
            <Words onClick={() => set({ dialog: "run" })}>Run a section</Words>
          ) : null}
        </p>
      </div>
    );
  }
  // The part that the rows at the top of the sheet are of: its head stays with the heads of the columns.
  const offset = (list.scrollOffset ?? 0) + 50;
  const atTop = entries[shownItems.find((item) => item.end > offset)?.index ?? 0]?.part;
  const listed = sumOf(parts);
  // All straight pieces are drawn to one scale: the longest that is listed fills its column. A long bent one would leave them no length.
  const straight = parts.flatMap((part) => part.rows.flatMap(({ row }) => (row.bends.length ? [] : row.long_point)));
  const longest = Math.max(1, ...straight);
  const listedAs = missing
    ? "So far"
    : !parts.length
      ? "Nothing matches these words"
      : isKept({ words, only })
        ? "Found"
        : "All";
  return (
    <div ref={take} onKeyDown={walkRows} className="relative h-full overflow-auto px-4 pt-2 pb-8">
      <div className="mb-1 flex items-center gap-x-3">
        <h2 className="whitespace-nowrap font-semibold text-lg">Cutting list</h2>
        <CuttingFilter />
      </div>
      {problem ? (
        <p role="alert" className="mb-2 text-red">
          {parts.length ? "The rest of the" : "The"} cutting list could not be fetched. {problem.detail}{" "}
          <Words onClick={again}>Try again</Words>
        </p>
      ) : (
        (missing > 0 || stale) && (
          <p role="status" className="appear-late mb-2 text-pencil">
            {missing > 0
              ? `Fetching the cutting list: ${grouped(`${things - missing}`)} of ${grouped(`${things}`)} runs…`
              : "Bringing the cutting list up to date…"}
          </p>
        )
      )}
      <table ref={table} aria-rowcount={entries.length} className="w-full min-w-[672px] table-fixed border-collapse">
        <thead className="-top-2 sticky z-10 bg-paper">
          <tr className="bg-paper text-pencil text-sm [&>th]:shadow-[inset_0_-1px_0_var(--color-ink)]">
            <Head column="tag" wide={WIDE.tag} left>
              Tag
            </Head>
            <Head column="quantity" wide={WIDE.quantity}>
              Qty
            </Head>
            <th className="pl-2 text-left font-normal">Piece, seen from above</th>
            <Head column="long" wide={WIDE.long}>
              Long point
            </Head>
            {shows("short") && (
              <Head column="short" wide={WIDE.short}>
                Short point
              </Head>
            )}
            {shows("line") && (
              <Head column="line" wide={WIDE.line}>
                On the line
              </Head>
            )}
            {shows("begins") && (
              <th style={{ width: layout.cut }} className="pl-3 text-left font-normal">
                Begins
              </th>
            )}
            {shows("ends") && (
              <th style={{ width: layout.cut }} className="pl-3 text-left font-normal">
                Ends
              </th>
            )}
            {shows("weight") && <Head column="weight" wide={WIDE.weight}>{`Weight, ${massUnit(units)}`}</Head>}
            {shows("painted") && <Head column="painted" wide={WIDE.painted}>{`Painted, ${areaUnit(units)}`}</Head>}
          </tr>
          {atTop && <PartHead part={atTop} shows={shows} stuck />}
        </thead>
        <tbody aria-hidden="true">
          <tr style={{ height: Math.max(0, (shownItems[0]?.start ?? above) - above) }} />
        </tbody>
        {shownItems.map((item) => {
          const entry = entries[item.index];
          return (
            entry && (
              <tbody key={item.key} data-index={item.index} ref={list.measureElement}>
                {entry.at ? (
                  <PieceRow
                    id={entry.at.run}
                    row={entry.at.row}
                    longest={longest}
                    named={by !== "run"}
                    layout={layout}
                  />
                ) : (
                  <PartHead part={entry.part} shows={shows} />
                )}
              </tbody>
            )
          );
        })}
        <tbody aria-hidden="true">
          <tr style={{ height: Math.max(0, list.getTotalSize() + above - (shownItems.at(-1)?.end ?? above)) }} />
        </tbody>
        <tfoot className="-bottom-8 sticky z-10 bg-paper" hidden={missing > 0 && !parts.length}>
          <tr className="[&>*]:bg-paper [&>*]:shadow-[inset_0_1px_0_var(--color-ink)]">
            <th scope="row" colSpan={3} className="py-1.5 pl-2 text-left font-semibold">
              {listedAs}
              <span className="font-normal text-pencil"> · {count(listed.pieces, "piece")}</span>{" "}
              {isKept({ words, only }) && (
                <span className="font-normal">
                  <Words onClick={() => want({ words: "", only: "all" })}>Show all</Words>
                </span>
              )}
            </th>
            <td className="figure text-right font-bold">{formatLength(listed.bar, units)}</td>
            {shows("short") && <td />}
            {shows("line") && <td className="figure text-right">{formatLength(listed.line, units)}</td>}
            {cutColumns(shows) > 0 && <td colSpan={cutColumns(shows)} />}
            {shows("weight") && <td className="figure text-right">{formatMass(listed.weight, units)}</td>}
            {shows("painted") && <td className="figure pr-1 text-right">{formatPainted(listed.painted, units)}</td>}
          </tr>
        </tfoot>
      </table>
      <p className="mt-2 text-pencil text-sm">
        Cuts: mitre (table turned) / bevel (blade tilted) for the side named as lying on the table; one figure is a
        mitre alone. In the drawing the full outline is the upper side, the dashed one the side on the table. Under a
        cut stands where the piece is longest there: ↑ at the edge at the fence, ↓ at the nearest one, on its upper or
        its under side.
      </p>
      <Schedule />
    </div>
  );
}

/** The head of a column that rows can be sorted by: a click sorts, another the other way round. */
function Head({ column, wide, left, children }: { column: Column; wide: number; left?: boolean; children: string }) {
  const { sorted, want } = useWanted();
  const on = sorted.by === column;
  return (
    <th
      aria-sort={on ? ((column === "tag") === sorted.back ? "descending" : "ascending") : "none"}
      style={{ width: wide }}
      className={`whitespace-nowrap py-1 font-normal leading-tight ${left ? "pl-2 text-left" : "text-right"}`}
    >
      <button
        type="button"
        title={`Sort by ${children.toLowerCase()}`}
        onClick={() => want({ sorted: { by: column, back: on && !sorted.back } })}
        className={`cursor-pointer hover:text-ink ${left ? "text-left" : "text-right"} ${on ? "font-medium text-ink" : ""}`}
      >
        {children}
        {on && <span aria-hidden> {sorted.back ? "▴" : "▾"}</span>}
      </button>
    </th>
  );
}
