/** The cutting list: a sheet for the saw, each row with the piece drawn as it lies on the table. */
import { Fragment, useEffect, useRef } from "react";
import type { CutRowFigures, JobShown } from "../api/client";
import { outlineOf } from "../api/merging";
import { centresOf } from "../card/RowCard";
import { bendWords } from "../ui/bends";
import { Words } from "../ui/choices";
import { count, formatLength, sizeWords } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { lineById, runById, runFigures, sectionById } from "../window/things";

const bedWords: Record<string, string> = {
  back: "back on the table",
  foot: "foot on the table",
  front: "front on the table",
  head: "head on the table",
};

const hasCuts = (shown: JobShown) => Object.values(shown.cutting).some((rows) => rows.length > 0);

export function CuttingList() {
  const shown = useShown();
  const units = useUnits();
  const { set } = useWindow();
  const { totals } = shown;
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
    <div className="h-full overflow-auto px-6 pt-4 pb-8">
      <h2 className="font-semibold text-lg">Cutting list</h2>
      <p className="mb-3 text-pencil">
        {shown.job.name} · {count(totals.job.pieces, "piece")} of{" "}
        {count(Object.keys(totals.sections).length, "section")} · {formatLength(totals.job.line_length, units)} along
        the lines, {formatLength(totals.job.bar, units)} of long points
      </p>
      <table className="w-full min-w-[660px] border-collapse">
        <thead className="-top-4 sticky z-10 bg-paper">
          <tr className="border-ink border-b text-pencil text-sm">
            <th className="py-1.5 pl-2 text-left font-normal">Tag</th>
            <th className="w-10 text-right font-normal">Qty</th>
            <th className="pl-5 text-left font-normal">Piece, seen from above</th>
            <th className="w-20 text-right font-normal">Long point</th>
            <th className="w-20 text-right font-normal">Short point</th>
            <th className="w-20 text-right font-normal">On the line</th>
            <th className="w-24 text-right font-normal">Begins</th>
            <th className="w-24 pr-2 text-right font-normal">Ends</th>
          </tr>
        </thead>
        {shown.job.runs?.map((run) => (
          <RunRows key={run.id} id={run.id} />
        ))}
      </table>
      <p className="mt-2 text-pencil text-sm">
        Cuts: mitre (table turned) / bevel (blade tilted) for the side named as lying on the table; one figure is a
        mitre alone. In the drawing the full outline is the upper side, the dashed one the side on the table.
      </p>
      <Schedule />
    </div>
  );
}

function RunRows({ id }: { id: string }) {
  const shown = useShown();
  const units = useUnits();
  const run = runById(shown, id);
  const section = sectionById(shown, run?.section);
  const rows = shown.cutting[id] ?? [];
  const total = shown.totals.runs[id];
  const { select, selected, piece, pointed, pointAt } = useWindow();
  const figures = runFigures(shown, id);
  const longest = Math.max(...rows.map((row) => row.long_point), 1);
  const ref = useRef<HTMLTableSectionElement>(null);
  const on = selected.includes(id);
  useEffect(() => {
    if (on) ref.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  if (!run || !section || !figures) return null;
  const bed = section.bed?.kind === "side" ? bedWords[section.bed.side ?? "back"] : "sprung back on the table";
  // The piece that is pointed at, on the rod or in the drawing.
  const here =
    on && pointed?.line === run.line
      ? figures.pieces.findIndex((one) =>
          one.begin < one.end
            ? pointed.chainage >= one.begin && pointed.chainage < one.end
            : pointed.chainage >= one.begin || pointed.chainage < one.end,
        )
      : -1;
  return (
    <tbody ref={ref}>
      <tr className="border-rule border-b">
        <th colSpan={6} className="py-1.5 pt-4 pl-2 text-left font-normal">
          <button type="button" className="cursor-pointer hover:text-chalk-deep" onClick={() => select([id])}>
            <b className={on ? "text-chalk-deep" : ""}>{run.name}</b>
          </button>
          <span className="text-pencil">
            {" "}
            · {section.name === run.name ? "" : `${section.name} `}
            {sizeWords(section, units)} · {bed}
            {rows[0] && (
              <span title="The edge of the section that lies to the left of travel">, {rows[0].left} left</span>
            )}
          </span>
        </th>
        <td colSpan={2} className="whitespace-nowrap py-1.5 pt-4 pr-2 text-right text-pencil">
          {count(total?.pieces ?? 0, "piece")} ·{" "}
          <span className="figure">{formatLength(total?.line_length ?? 0, units)}</span>
        </td>
      </tr>
      {rows.map((row) => {
        const chosen = on && piece !== null && row.pieces.includes(piece);
        const pointedAt = row.pieces.includes(here);
        const bent = bendWords(row.bends, units);
        const look = chosen ? "bg-chalk-wash" : pointedAt ? "bg-chalk-wash/60" : on ? "bg-white" : "hover:bg-white";
        const choose = () => select([id], row.pieces[0] ?? null);
        return (
          <Fragment key={row.tags[0]}>
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
              <td className="py-1 pl-5">
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
                <td colSpan={6} className="pb-1 pl-5 text-pencil text-sm">
                  {row.side_view && <SideView row={row} longest={longest} on={chosen} />}
                  {bent}
                </td>
              </tr>
            )}
          </Fragment>
        );
      })}
    </tbody>
  );
}

/** Room beside a pictogram for the names of the edges left and right of travel. */
const EDGES = 44;

function saw(cut: CutRowFigures["begin"]): string {
  return `mitre ${cut.mitre.toFixed(2)}°, bevel ${cut.bevel.toFixed(2)}°`;
}

/** The piece as it lies on the saw, drawn to length within its run; its width is shown at the same scale, within bounds. */
function Pictogram({ row, longest, on }: { row: CutRowFigures; longest: number; on: boolean }) {
  const [full, high] = [150, 18];
  const [under, upper] = [outlineOf(row.under), outlineOf(row.upper)];
  const all = [...under, ...upper];
  const [low, top] = [Math.min(...all.map((point) => point[1])), Math.max(...all.map((point) => point[1]))];
  const along = full / longest;
  const across = high / Math.max(top - low, 1);
  // A cut's slant is drawn as it is, whatever the drawing's scale along: from the nearer end, at the scale across.
  const begin = Math.min(...all.map((point) => point[0]));
  const end = Math.max(...all.map((point) => point[0]));
  const middle = (begin + end) / 2;
  const length = Math.max((end - begin) * along, high);
  const scale = Math.min(along, (2 * high) / Math.max(top - low, 1));
  const tall = row.bends.length ? Math.max(high, (top - low) * scale) : high;
  const place = ([x, y]: [number, number]): string => {
    // A piece that bends is drawn to one scale, as it lies.
    if (row.bends.length) {
      return `${((x - begin) * scale + 1).toFixed(1)} ${((top - y) * scale + (tall - (top - low) * scale) / 2 + 1).toFixed(1)}`;
    }
    const px =
      x < middle ? Math.min((x - begin) * across, length / 2) : length - Math.min((end - x) * across, length / 2);
    return `${(px + 1).toFixed(1)} ${(high - (y - low) * across + 1).toFixed(1)}`;
  };
  const path = (points: [number, number][]) => `M${points.map(place).join("L")}Z`;
  return (
    <svg
      width={EDGES + full + 4}
      height={tall + 4}
      viewBox={`${-EDGES} -1 ${EDGES + full + 4} ${tall + 4}`}
      role="img"
      aria-label={`The piece from above, its ${row.left} to the left of travel and its ${row.right} to the right`}
      className="block"
    >
      <g fontSize={10.5} textAnchor="end" className="fill-pencil">
        <text x={-5} y={8}>
          {row.left}
        </text>
        <text x={-5} y={tall + 1}>
          {row.right}
        </text>
      </g>
      <path
        d={path(under)}
        fill={on ? "#cfe0f0" : "#e6d6b6"}
        stroke={on ? "#174a80" : "#22302e"}
        strokeWidth={0.9}
        strokeDasharray="2.5 2"
      />
      <path
        d={path(upper)}
        fill={on ? "#dceaf6" : "#f0e5cf"}
        fillOpacity={0.9}
        stroke={on ? "#174a80" : "#22302e"}
        strokeWidth={1.1}
        strokeLinejoin="round"
      />
    </svg>
  );
}

/** A piece that leaves the plane of the table, seen from the right of travel as it lies there. */
function SideView({ row, longest, on }: { row: CutRowFigures; longest: number; on: boolean }) {
  const points = outlineOf(row.side_view ?? []);
  const [xs, ys] = [points.map((point) => point[0]), points.map((point) => point[1])];
  const [left, right, low, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min(150 / longest, 150 / Math.max(right - left, 1), 64 / Math.max(top - low, 1));
  const [width, height] = [(right - left) * scale, (top - low) * scale];
  return (
    <svg
      width={EDGES + 154}
      height={height + 6}
      viewBox={`${-EDGES} -3 ${EDGES + 154} ${height + 6}`}
      role="img"
      aria-label="The piece from the side, as it lies on the saw"
      className="mb-0.5 block"
    >
      <text x={-5} y={height / 2 + 4} fontSize={10.5} textAnchor="end" className="fill-pencil">
        side
      </text>
      <path d={`M-2 ${height + 1}H${Math.max(width, 20) + 2}`} stroke="#a9aea6" strokeDasharray="3 2" />
      <path
        d={`M${points.map(([x, y]) => `${((x - left) * scale).toFixed(1)} ${((top - y) * scale).toFixed(1)}`).join("L")}Z`}
        fill={on ? "#dceaf6" : "#f0e5cf"}
        stroke={on ? "#174a80" : "#22302e"}
        strokeWidth={1}
        strokeLinejoin="round"
      />
    </svg>
  );
}

function Schedule() {
  const shown = useShown();
  const units = useUnits();
  const { select, selected } = useWindow();
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  return (
    <section aria-label="Schedule" className="mt-8">
      <h2 className="mb-2 font-semibold text-lg">Schedule</h2>
      <div className="grid gap-8 xl:grid-cols-2">
        {hasCuts(shown) && (
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-ink border-b text-pencil text-sm">
                <th className="py-1.5 pl-2 text-left font-normal">Section</th>
                <th className="text-right font-normal">Pieces</th>
                <th className="text-right font-normal">Along lines</th>
                <th className="pr-2 text-right font-normal">Long points</th>
              </tr>
            </thead>
            <tbody>
              {shown.job.sections
                ?.filter((section) => shown.totals.sections[section.id])
                .map((section) => (
                  <tr key={section.id} className="border-rule border-b">
                    <td className="py-1 pl-2">
                      {section.name} <span className="figure text-pencil">{sizeWords(section, units)}</span>
                    </td>
                    <td className="figure text-right">{shown.totals.sections[section.id]?.pieces}</td>
                    <td className="figure text-right">
                      {formatLength(shown.totals.sections[section.id]?.line_length ?? 0, units)}
                    </td>
                    <td className="figure pr-2 text-right">
                      {formatLength(shown.totals.sections[section.id]?.bar ?? 0, units)}
                    </td>
                  </tr>
                ))}
              <tr className="font-semibold">
                <td className="py-1 pl-2">The job</td>
                <td className="figure text-right">{shown.totals.job.pieces}</td>
                <td className="figure text-right">{formatLength(shown.totals.job.line_length, units)}</td>
                <td className="figure pr-2 text-right">{formatLength(shown.totals.job.bar, units)}</td>
              </tr>
            </tbody>
          </table>
        )}
        {shown.rows.length > 0 && (
          <table className="w-full self-start border-collapse">
            <thead>
              <tr className="border-ink border-b text-pencil text-sm">
                <th className="py-1.5 pl-2 text-left font-normal">Items</th>
                <th className="text-right font-normal">Count</th>
                <th className="text-right font-normal">Centres</th>
                <th className="pr-2 text-right font-normal">Left over</th>
              </tr>
            </thead>
            <tbody>
              {shown.rows.map((row) => {
                const centres = [...new Set(centresOf(row).map((mm) => formatLength(mm, fine)))];
                return (
                  <tr
                    key={row.id}
                    onClick={() => select([row.id])}
                    className={`cursor-pointer border-rule border-b ${selected.includes(row.id) ? "bg-chalk-wash" : "hover:bg-white"}`}
                  >
                    <td className="py-1 pl-2">{shown.job.rows?.find((one) => one.id === row.id)?.name}</td>
                    <td className="figure text-right">{row.count}</td>
                    <td className="figure text-right">
                      {centres.length > 2 ? `${centres.length} different` : centres.join(", ") || "–"}
                    </td>
                    <td className="figure pr-2 text-right">{formatLength(row.left_over, units)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}
