import type { CutRowFigures } from "../api/client";
import { bendWords, curvatureWords } from "../ui/bends";
import { formatLength, formatMass, formatPainted, writeSentence } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { lineById, runById, runFigures } from "../window/things";
import { cutColumns } from "./Columns";
import type { Layout } from "./layout";
import { notesOf } from "./ordering";
import { Pictogram, SideView } from "./Pictogram";

export function PieceRow({
  id,
  row,
  longest,
  named,
  layout,
}: {
  id: string;
  row: CutRowFigures;
  /** What it is drawn against. */
  longest: number;
  /** Whether its run must be named beside it. */
  named: boolean;
  layout: Layout;
}) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const pointAt = useWindow((state) => state.pointAt);
  const { shows, picture } = layout;
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
        <td className="py-0.5 pl-2 font-semibold leading-tight">
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
        <td className="py-0.5 pl-2">
          <Pictogram row={row} longest={longest} full={picture} on={chosen} />
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
          <td className="figure py-0.5 pl-3 leading-tight" title={saw(row.begin)}>
            <End cut={row.begin} row={row} />
          </td>
        )}
        {shows("ends") && (
          <td className="figure py-0.5 pl-3 leading-tight" title={saw(row.end)}>
            <End cut={row.end} row={row} />
          </td>
        )}
        {shows("weight") && <td className="figure text-right">{formatMass(row.weight, units)}</td>}
        {shows("painted") && <td className="figure pr-1 text-right">{formatPainted(row.painted, units)}</td>}
      </tr>
      {(bent || notes.length > 0) && (
        <tr onClick={choose} className={`cursor-pointer border-rule border-b ${look}`}>
          <td colSpan={2} />
          <td
            colSpan={
              2 +
              cutColumns(shows) +
              (["short", "line", "weight", "painted"] as const).filter((one) => shows(one)).length
            }
            className="pb-1 pl-2 text-pencil text-sm"
          >
            <div className="flex items-center gap-4">
              {row.side_view && <SideView row={row} longest={longest} full={picture} on={chosen} />}
              <div>
                {bent}
                {row.centroid_length !== null && `, ${formatLength(row.centroid_length, units)} long at the centroid`}
                {row.curvature && <span className="block text-ink">{curvatureWords(row.curvature, units)}</span>}
                {notes.map((note) => (
                  <span key={note} className="block border-wax border-l-2 pl-2 text-ink">
                    {note}
                  </span>
                ))}
              </div>
            </div>
          </td>
        </tr>
      )}
    </>
  );
}

/** Places in a few words: their names, or the first and how many more. */
function placesInWords(places: readonly string[]): string {
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
        <span className="ml-1.5 whitespace-nowrap text-pencil text-xs" title={cut.long}>
          {longest}
        </span>
      )}
      {cut.off >= 0.05 && (
        <span className="ml-1.5 whitespace-nowrap text-wax-deep text-xs">
          off {formatLength(cut.off, { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 })}
        </span>
      )}
    </>
  );
}

function saw(cut: CutRowFigures["begin"]): string {
  return `mitre ${cut.mitre.toFixed(2)}°, bevel ${cut.bevel.toFixed(2)}°`;
}
