/** The cutting list: a sheet for the saw, each row with the piece drawn as it lies on the table. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { CutRowFigures, JobShown } from "../api/client";
import { bendWords } from "../ui/bends";
import { Words } from "../ui/choices";
import { count, formatLength, sizeWords } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { lineById, runById, runFigures, sectionById } from "../window/things";
import { Pictogram, SideView } from "./Pictogram";
import { Schedule } from "./Schedule";

const bedWords: Record<string, string> = {
  back: "back on the table",
  foot: "bottom on the table",
  front: "front on the table",
  head: "top on the table",
};

const hasCuts = (shown: JobShown) => Object.values(shown.cutting).some((rows) => rows.length > 0);

/** What stands in the list, one under the other: a run, and each row of equal pieces of it. */
type Entry = { run: string; row: CutRowFigures | null };

/** About how high an entry is, pixels, until it has been drawn. */
const HIGH = { run: 45, piece: 31 };

export function CuttingList() {
  const shown = useShown();
  const units = useUnits();
  const set = useWindow((state) => state.set);
  const selected = useWindow((state) => state.selected[0]);
  const { totals, cutting } = shown;
  const runs = shown.job.runs;
  const entries = useMemo(
    () =>
      (runs ?? []).flatMap((run): Entry[] => [
        { run: run.id, row: null },
        ...(cutting[run.id] ?? []).map((row) => ({ run: run.id, row })),
      ]),
    [runs, cutting],
  );
  const scrolled = useRef<HTMLDivElement>(null);
  const table = useRef<HTMLTableElement>(null);
  const [above, setAbove] = useState(0);
  const any = entries.length > 0;
  useLayoutEffect(() => {
    if (any) setAbove((table.current?.offsetTop ?? 0) + (table.current?.tHead?.offsetHeight ?? 0));
  }, [any]);
  const list = useVirtualizer({
    count: entries.length,
    getScrollElement: () => scrolled.current,
    estimateSize: (index) => (entries[index]?.row ? HIGH.piece : HIGH.run),
    getItemKey: (index) => `${entries[index]?.run} ${entries[index]?.row?.tags[0] ?? ""}`,
    overscan: 12,
    scrollMargin: above,
    scrollPaddingStart: 40,
  });
  const first = entries.findIndex((entry) => entry.run === selected);
  useEffect(() => {
    const box = scrolled.current;
    if (first < 0 || !box) return;
    const [top, bottom] = [box.scrollTop + 40, box.scrollTop + box.clientHeight];
    // A run of which something can be seen is where it was clicked, and stays there.
    const seen = list
      .getVirtualItems()
      .some((item) => entries[item.index]?.run === selected && item.start >= top && item.end <= bottom);
    if (!seen) list.scrollToIndex(first, { align: "start" });
  }, [first, list, entries, selected]);
  const shownItems = list.getVirtualItems();
  if (!hasCuts(shown) && !shown.rows.length) {
    return (
      <div className="p-6">
        <h2 className="font-semibold text-lg">Cutting list</h2>
        <p className="mt-2 text-pencil">
          Nothing to cut yet. Run a section along a line and its pieces are listed here.{" "}
          <Words onClick={() => set({ dialog: "run" })}>Run a section</Words>
        </p>
      </div>
    );
  }
  return (
    <div ref={scrolled} className="relative h-full overflow-auto px-4 pt-4 pb-8">
      <h2 className="font-semibold text-lg">Cutting list</h2>
      <p className="mb-3 text-pencil">
        {shown.job.name} · {count(totals.job.pieces, "piece")} of{" "}
        {count(Object.keys(totals.sections).length, "section")} · {formatLength(totals.job.line_length, units)} along
        the lines, {formatLength(totals.job.bar, units)} of long points
      </p>
      <table ref={table} aria-rowcount={entries.length} className="w-full min-w-[692px] table-fixed border-collapse">
        <thead className="-top-4 sticky z-10 bg-paper">
          <tr className="border-ink border-b text-pencil text-sm">
            <th className="w-20 py-1.5 pl-2 text-left font-normal">Tag</th>
            <th className="w-8 text-right font-normal">Qty</th>
            <th className="pl-2 text-left font-normal">Piece, seen from above</th>
            <th className="w-[68px] text-right font-normal">Long point</th>
            <th className="w-[72px] text-right font-normal">Short point</th>
            <th className="w-[68px] text-right font-normal leading-tight">Length on line</th>
            <th className="w-[86px] text-right font-normal">Begins</th>
            <th className="w-[92px] pr-2 text-right font-normal">Ends</th>
          </tr>
        </thead>
        <tbody aria-hidden="true">
          <tr style={{ height: (shownItems[0]?.start ?? above) - above }} />
        </tbody>
        {shownItems.map((item) => {
          const entry = entries[item.index];
          return (
            entry && (
              <tbody key={item.key} data-index={item.index} ref={list.measureElement}>
                {entry.row ? <PieceRow id={entry.run} row={entry.row} /> : <RunRow id={entry.run} />}
              </tbody>
            )
          );
        })}
        <tbody aria-hidden="true">
          <tr style={{ height: list.getTotalSize() + above - (shownItems.at(-1)?.end ?? above) }} />
        </tbody>
      </table>
      <p className="mt-2 text-pencil text-sm">
        Cuts: mitre (table turned) / bevel (blade tilted) for the side named as lying on the table; one figure is a
        mitre alone. In the drawing the full outline is the upper side, the dashed one the side on the table.
      </p>
      <Schedule />
    </div>
  );
}

function RunRow({ id }: { id: string }) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const on = useWindow((state) => isIn(state.selected, id));
  const run = runById(shown, id);
  const section = sectionById(shown, run?.section);
  const total = shown.totals.runs[id];
  const first = shown.cutting[id]?.[0];
  if (!run || !section) return null;
  const bed = section.bed?.kind === "side" ? bedWords[section.bed.side ?? "back"] : "sprung back on the table";
  return (
    <tr className="border-rule border-b">
      <th colSpan={6} className="py-1.5 pt-4 pl-2 text-left font-normal">
        <button type="button" className="cursor-pointer hover:text-chalk-deep" onClick={() => select([id])}>
          <b className={on ? "text-chalk-deep" : ""}>{run.name}</b>
        </button>
        <span className="text-pencil">
          {" "}
          · {section.name === run.name ? "" : `${section.name} `}
          {sizeWords(section, units)} · {bed}
          {first && <span title="The edge of the section that lies to the left of travel">, {first.left} left</span>}
        </span>
      </th>
      <td colSpan={2} className="whitespace-nowrap py-1.5 pt-4 pr-2 text-right text-pencil">
        {count(total?.pieces ?? 0, "piece")} ·{" "}
        <span className="figure">{formatLength(total?.line_length ?? 0, units)}</span>
      </td>
    </tr>
  );
}

function PieceRow({ id, row }: { id: string; row: CutRowFigures }) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const pointAt = useWindow((state) => state.pointAt);
  const on = useWindow((state) => isIn(state.selected, id));
  const chosen = useWindow(
    (state) => state.piece !== null && isIn(state.selected, id) && row.pieces.includes(state.piece),
  );
  const run = runById(shown, id);
  const figures = runFigures(shown, id);
  // The piece that is pointed at, on the rod or in the drawing.
  const pointedAt = useWindow((state) => {
    const chainage = isIn(state.selected, id) && state.pointed?.line === run?.line ? state.pointed?.chainage : null;
    return (
      chainage != null &&
      row.pieces.some((number) => {
        const one = figures?.pieces[number];
        if (!one) return false;
        const [after, before] = [chainage >= one.begin, chainage < one.end];
        return one.begin < one.end ? after && before : after || before;
      })
    );
  });
  const longest = useLongest(id);
  if (!run || !figures) return null;
  const bent = bendWords(row.bends, units);
  const look = chosen ? "bg-chalk-wash" : pointedAt ? "bg-chalk-wash/60" : on ? "bg-white" : "hover:bg-white";
  const choose = () => select([id], row.pieces[0] ?? null);
  return (
    <>
      <tr
        onClick={choose}
        onPointerEnter={() => {
          const one = figures.pieces[row.pieces[0] ?? 0];
          if (on && one && lineById(shown, run.line)) {
            const end = one.end > one.begin ? one.end : one.end + figures.length;
            pointAt({ line: run.line, chainage: ((one.begin + end) / 2) % figures.length });
          }
        }}
        className={`cursor-pointer ${bent ? "" : "border-rule border-b"} ${look}`}
      >
        <td className="py-1 pl-2 font-semibold">
          <button type="button" className="cursor-pointer text-left" aria-label={`Piece ${row.tags.join(", ")}`}>
            {row.tags.join(", ")}
          </button>
        </td>
        <td className="figure text-right">{row.quantity}</td>
        <td className="py-1 pl-2">
          <Pictogram row={row} longest={longest} on={chosen} />
        </td>
        <td className={`figure text-right font-bold ${row.short_point <= 0 ? "text-red" : ""}`}>
          {formatLength(row.long_point, units)}
        </td>
        <td className={`figure text-right ${row.short_point <= 0 ? "font-bold text-red" : ""}`}>
          {row.short_point <= 0 && "! "}
          {formatLength(row.short_point, units)}
        </td>
        <td className="figure text-right">{formatLength(row.line_length, units)}</td>
        <td className="figure text-right" title={saw(row.begin)}>
          {row.begin.words}
        </td>
        <td className="figure pr-2 text-right" title={saw(row.end)}>
          {row.end.words}
        </td>
      </tr>
      {bent && (
        <tr onClick={choose} className={`cursor-pointer border-rule border-b ${look}`}>
          <td colSpan={2} />
          <td colSpan={6} className="pb-1 pl-2 text-pencil text-sm">
            {row.side_view && <SideView row={row} longest={longest} on={chosen} />}
            {bent}
          </td>
        </tr>
      )}
    </>
  );
}

/** The longest piece of a run, which the others are drawn against. */
function useLongest(id: string): number {
  const rows = useShown().cutting[id];
  return useMemo(() => Math.max(1, ...(rows ?? []).map((row) => row.long_point)), [rows]);
}

function saw(cut: CutRowFigures["begin"]): string {
  return `mitre ${cut.mitre.toFixed(2)}°, bevel ${cut.bevel.toFixed(2)}°`;
}
