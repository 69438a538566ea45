/** The cutting list: a sheet for the saw, each row with the piece drawn as it lies on the table. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { CutRowFigures } from "../api/client";
import { bendWords, curvatureWords } from "../ui/bends";
import { Words } from "../ui/choices";
import { count, formatLength, grouped, sizeWords, writeSentence } from "../ui/figures";
import { walkRows } from "../ui/walk";
import { useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { lineById, runById, runFigures, sectionById, sectionOfRun } from "../window/things";
import { type Optional, useShows } from "./Columns";
import { CuttingFilter, isKept, sumOf, useWanted } from "./CuttingFilter";
import { useListing } from "./listing";
import { type Column, entriesOf, holds, notesOf, type Part, partsOf } from "./ordering";
import { Pictogram, SideView } from "./Pictogram";
import { Schedule } from "./Schedule";

const bedWords: Record<string, string> = {
  back: "back on the table",
  foot: "bottom on the table",
  front: "front on the table",
  head: "top on the table",
};

/** About how high an entry is, pixels, until it has been drawn. */
const HIGH = { head: 45, piece: 31 };

export function CuttingList() {
  const shown = useShown();
  const units = useUnits();
  const set = useWindow((state) => state.set);
  const selected = useWindow((state) => state.selected[0]);
  const { words, only, by, sorted, want } = useWanted();
  const shows = useShows();
  const { listed: job, missing, stale, problem, again } = useListing();
  const parts = useMemo(() => partsOf(job, { words, only, by, sorted }), [job, words, only, by, sorted]);
  const entries = useMemo(() => entriesOf(parts), [parts]);
  const scrolled = useRef<HTMLDivElement>(null);
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
    scrollPaddingStart: 76,
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
  const shownItems = list.getVirtualItems();
  const things = Object.keys(shown.cuts).length;
  if (!things && !shown.rows.length) {
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
  // The part that the rows at the top of the sheet are of: its head stays with the heads of the columns.
  const offset = (list.scrollOffset ?? 0) + 62;
  const atTop = entries[shownItems.find((item) => item.end > offset)?.index ?? 0]?.part;
  const listed = sumOf(parts);
  const listedAs = missing
    ? "So far"
    : !parts.length
      ? "Nothing matches these words"
      : isKept({ words, only })
        ? "Found"
        : "All";
  return (
    <div ref={scrolled} onKeyDown={walkRows} className="relative h-full overflow-auto px-4 pt-4 pb-8">
      <div className="mb-3 flex flex-wrap items-end gap-x-2 gap-y-1.5">
        <div className="mr-auto">
          <h2 className="font-semibold text-lg">Cutting list</h2>
          <p className="text-pencil">{shown.job.name}</p>
        </div>
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
      <table ref={table} aria-rowcount={entries.length} className="w-full min-w-[692px] table-fixed border-collapse">
        <thead className="-top-4 sticky z-10 bg-paper">
          <tr className="bg-paper text-pencil text-sm [&>th]:shadow-[inset_0_-1px_0_var(--color-ink)]">
            <Head column="tag" wide="w-20" left>
              Tag
            </Head>
            <Head column="quantity" wide="w-9">
              Qty
            </Head>
            <th className="pl-2 text-left font-normal">Piece, seen from above</th>
            <Head column="long" wide="w-[76px]">
              Long point
            </Head>
            {shows("short") && (
              <Head column="short" wide="w-[80px]">
                Short point
              </Head>
            )}
            {shows("line") && (
              <Head column="line" wide="w-[76px]">
                Length on line
              </Head>
            )}
            {shows("begins") && <th className="w-[96px] text-right font-normal">Begins</th>}
            {shows("ends") && <th className="w-[104px] pr-2 text-right font-normal">Ends</th>}
          </tr>
          {atTop && <PartHead part={atTop} stuck />}
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
                  <PieceRow id={entry.at.run} row={entry.at.row} longest={entry.part.longest} named={by !== "run"} />
                ) : (
                  <PartHead part={entry.part} />
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
            {rest(shows) > 0 && <td colSpan={rest(shows)} />}
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
function Head({ column, wide, left, children }: { column: Column; wide: string; left?: boolean; children: string }) {
  const { sorted, want } = useWanted();
  const on = sorted.by === column;
  return (
    <th
      aria-sort={on ? ((column === "tag") === sorted.back ? "descending" : "ascending") : "none"}
      className={`${wide} py-1.5 font-normal leading-tight ${left ? "pl-2 text-left" : "text-right"}`}
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

/** The head of a run, of a section, or of all together. */
function PartHead({ part, stuck }: { part: Part; stuck?: boolean }) {
  if (part.of === "run") return <RunHead id={part.id} part={part} stuck={stuck ?? false} />;
  if (part.of === "section") return <SectionHead id={part.id} part={part} stuck={stuck ?? false} />;
  if (part.of === "place") return <PlaceHead id={part.id} part={part} stuck={stuck ?? false} />;
  return null;
}

/** How many columns there are after that of the length on the line. */
const rest = (shows: (column: Optional) => boolean) =>
  (["begins", "ends"] as const).filter((column) => shows(column)).length;

function PartTotals({ part, padding }: { part: Part; padding: string }) {
  const units = useUnits();
  const shows = useShows();
  return (
    <>
      <td className={`figure text-right text-pencil ${padding}`}>{formatLength(part.bar, units)}</td>
      {shows("short") && <td />}
      {shows("line") && (
        <td className={`figure text-right text-pencil ${padding}`}>{formatLength(part.line, units)}</td>
      )}
      {rest(shows) > 0 && (
        <td colSpan={rest(shows)} className={`whitespace-nowrap pr-2 text-right text-pencil ${padding}`}>
          {count(part.pieces, "piece")}
        </td>
      )}
    </>
  );
}

function PlaceHead({ id, part, stuck }: { id: string; part: Part; stuck: boolean }) {
  const padding = stuck ? "py-1" : "py-1.5 pt-4";
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <b>{id || "In no place of a typical"}</b>
      </th>
      <PartTotals part={part} padding={padding} />
    </tr>
  );
}

function SectionHead({ id, part, stuck }: { id: string; part: Part; stuck: boolean }) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const section = sectionById(shown, id);
  const padding = stuck ? "py-1" : "py-1.5 pt-4";
  const runs = [...new Set(part.rows.map((one) => one.run))];
  if (!section) return null;
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <button
          type="button"
          data-walk="head"
          className="cursor-pointer hover:text-chalk-deep"
          onClick={() => select(runs)}
        >
          <b>{section.name}</b>
        </button>
        <span className="text-pencil">
          {" "}
          · {sizeWords(section, units)} · {count(runs.length, "run")}
        </span>
      </th>
      <PartTotals part={part} padding={padding} />
    </tr>
  );
}

function RunHead({ id, part, stuck }: { id: string; part: Part; stuck: boolean }) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const on = useWindow((state) => isIn(state.selected, id));
  const run = runById(shown, id);
  const section = sectionOfRun(shown, run);
  const padding = stuck ? "py-1" : "py-1.5 pt-4";
  const first = part.rows.find((one) => one.run === id)?.row;
  if (!run || !section) return null;
  const slanting = shown.job.saw?.sprung ? "against the fence, head on the table" : "sprung back on the table";
  const bed = section.bed?.kind === "side" ? bedWords[section.bed.side ?? "back"] : slanting;
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <button
          type="button"
          data-walk="head"
          className="cursor-pointer hover:text-chalk-deep"
          onClick={() => select([id])}
        >
          <b className={on ? "text-chalk-deep" : ""}>{run.name}</b>
        </button>
        <span className="text-pencil">
          {" "}
          · {section.name === run.name ? "" : `${section.name} `}
          {sizeWords(section, units)} · {bed}
          {first && <span title="The edge of the section that lies to the left of travel">, {first.left} left</span>}
        </span>
      </th>
      <PartTotals part={part} padding={padding} />
    </tr>
  );
}

function PieceRow({
  id,
  row,
  longest,
  named,
}: {
  id: string;
  row: CutRowFigures;
  /** What it is drawn against. */
  longest: number;
  /** Whether its run must be named beside it. */
  named: boolean;
}) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const pointAt = useWindow((state) => state.pointAt);
  const shows = useShows();
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
        if (!one || one.part) return false;
        const [after, before] = [chainage >= one.begin, chainage < one.end];
        return one.begin < one.end ? after && before : after || before;
      })
    );
  });
  if (!run || !figures) return null;
  const bent = bendWords(row.bends, units);
  const notes = shows("notes") ? notesOf(run, row) : [];
  const stop = shown.job.saw?.stop ?? "long";
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
        className={`cursor-pointer ${bent || notes.length ? "" : "border-rule border-b"} ${look}`}
      >
        <td className="py-1 pl-2 font-semibold">
          <button
            type="button"
            data-walk="piece"
            className="cursor-pointer text-left"
            aria-label={`Piece ${row.tags.join(", ")}`}
          >
            {row.tags.join(", ")}
          </button>
          {(row.part || row.mirrored) && (
            <span className="block font-normal text-pencil text-xs">
              {[row.mirrored ? "mirrored" : "", row.part].filter(Boolean).join(", ")}
            </span>
          )}
        </td>
        <td className="figure text-right">{row.quantity}</td>
        <td className="py-1 pl-2">
          <Pictogram row={row} longest={longest} on={chosen} />
          {(named || row.places.length > 0) && (
            <span className="block truncate text-pencil text-xs" title={row.places.join(", ")}>
              {[named ? run.name : "", row.places.length ? `in ${placesInWords(row.places)}` : ""]
                .filter(Boolean)
                .join(" · ")}
            </span>
          )}
        </td>
        <td
          className={`figure text-right ${stop === "long" ? "font-bold" : ""} ${row.short_point <= 0 ? "text-red" : ""}`}
        >
          {formatLength(row.long_point, units)}
        </td>
        {shows("short") && (
          <td
            className={`figure text-right ${stop === "short" || row.short_point <= 0 ? "font-bold" : ""} ${row.short_point <= 0 ? "text-red" : ""}`}
          >
            {row.short_point <= 0 && "! "}
            {formatLength(row.short_point, units)}
            {stop === "fence" && (
              <span className="block font-bold" title="Along the edge at the fence">
                {formatLength(row.stop, units)} <span className="font-normal text-pencil text-xs">{row.left}</span>
              </span>
            )}
          </td>
        )}
        {shows("line") && <td className="figure text-right">{formatLength(row.line_length, units)}</td>}
        {shows("begins") && (
          <td className="figure pl-3 text-right" title={saw(row.begin)}>
            <End cut={row.begin} row={row} />
          </td>
        )}
        {shows("ends") && (
          <td className="figure pr-2 pl-3 text-right" title={saw(row.end)}>
            <End cut={row.end} row={row} />
          </td>
        )}
      </tr>
      {(bent || notes.length > 0) && (
        <tr onClick={choose} className={`cursor-pointer border-rule border-b ${look}`}>
          <td colSpan={2} />
          <td
            colSpan={2 + Number(shows("short")) + Number(shows("line")) + rest(shows)}
            className="pb-1 pl-2 text-pencil text-sm"
          >
            {row.side_view && <SideView row={row} longest={longest} on={chosen} />}
            {bent}
            {row.centroid_length !== null && `, ${formatLength(row.centroid_length, units)} long at the centroid`}
            {row.curvature && <span className="block text-ink">{curvatureWords(row.curvature, units)}</span>}
            {notes.map((note) => (
              <span key={note} className="block border-wax border-l-2 pl-2 text-ink">
                {note}
              </span>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}

/** Places in a few words: their names, or the first and how many more. */
export function placesInWords(places: readonly string[]): string {
  return places.length <= 6 ? places.join(", ") : `${places.slice(0, 4).join(", ")} and ${places.length - 4} more`;
}

/** How an end is cut, which edge is longest there, as the piece lies in the drawing, and how far the saw's steps are off. */
function End({ cut, row }: { cut: CutRowFigures["begin"]; row: CutRowFigures }) {
  const units = useUnits();
  const edge = [row.left, row.right].find((one) => cut.long.includes(`the ${one}`));
  const face = cut.long.includes("underneath") ? "under" : cut.long.includes("upper") ? "upper" : "";
  const longest = [edge ? `${edge === row.left ? "↑" : "↓"} ${edge}` : "", face].filter(Boolean).join(" · ");
  return (
    <>
      {writeSentence(cut.words, units)}
      {longest && (
        <span className="block whitespace-nowrap text-pencil text-xs leading-tight" title={cut.long}>
          {longest}
        </span>
      )}
      {cut.off >= 0.05 && (
        <span className="block text-wax-deep text-xs leading-tight">
          off {formatLength(cut.off, { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 })}
        </span>
      )}
    </>
  );
}

function saw(cut: CutRowFigures["begin"]): string {
  return `mitre ${cut.mitre.toFixed(2)}°, bevel ${cut.bevel.toFixed(2)}°`;
}
