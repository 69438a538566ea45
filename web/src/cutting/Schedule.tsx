/** The schedule: totals for each section and the job, item counts for each row. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment, useContext } from "react";
import { answer, api, problemOf, type ScheduleLine } from "../api/client";
import { centresOf } from "../card/row/AlongQuestions";
import { Words } from "../ui/choices";
import { areaUnit, formatLength, formatMass, formatPainted, massUnit, sizeWords } from "../ui/figures";
import { JobId, useSentence, useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { usePart } from "../window/store";
import { rowById } from "../window/things";

/** What pieces weigh together, and how much of them is painted. */
function Worth({ entry }: { entry: ScheduleLine | undefined }) {
  const units = useUnits();
  return (
    <>
      <td className="figure pr-2 text-right">{entry?.weight == null ? "" : formatMass(entry.weight, units)}</td>
      <td className="figure pr-2 text-right">{entry?.painted == null ? "" : formatPainted(entry.painted, units)}</td>
    </>
  );
}

/** The ground of a field or of a strip, or the faces of panes, in the columns of centres and left over. */
function Ground({ area, words }: { area: number; words: string }) {
  const units = useUnits();
  return (
    <td colSpan={2} className="pr-2 pl-3 text-right text-pencil">
      {words}{" "}
      <span className="figure text-ink">
        {formatPainted(area, units)} {areaUnit(units)}
      </span>
    </td>
  );
}

export function Schedule() {
  const shown = useShown();
  const units = useUnits();
  const { select, selected } = usePart("select", "selected");
  const sentence = useSentence();
  const job = useContext(JobId);
  // Counted over all pieces by the service; till it has come the last one stands.
  const {
    data: entries = [],
    error,
    refetch,
  } = useQuery({
    queryKey: ["schedule", job, shown.revision],
    queryFn: () => answer<ScheduleLine[]>(api.GET("/api/jobs/{id}/schedule", { params: { path: { id: job } } })),
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  const entryOf = (kind: string, of: string) => entries.find((entry) => entry.kind === kind && entry.of === of);
  const cut = entries.filter((entry) => entry.kind === "cord" || entry.kind === "board");
  const panes = entries.filter((entry) => entry.kind === "pane");
  const strips = entries.filter((entry) => entry.kind === "strip");
  const fittings = shown.totals.fittings.map(({ name, number }) => [sentence(name), number] as const);
  const { kerf = 0, trim = 0 } = shown.job.saw ?? {};
  // What saw and trimming take is notified where they take anything.
  const allowed = kerf > 0 || trim > 0;
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  return (
    <section aria-label="Schedule" className="mt-8">
      <h2 className="mb-2 font-semibold text-lg">Schedule</h2>
      {error && (
        <p role="alert" className="mb-2 text-red">
          Weights, painted areas and bars could not be fetched. {problemOf(error).detail}{" "}
          <Words onClick={() => void refetch()}>Try again</Words>
        </p>
      )}
      <div className="grid gap-8 2xl:grid-cols-2">
        {shown.totals.job.pieces > 0 && (
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-ink border-b text-pencil text-sm">
                <th className="py-1.5 pl-2 text-left font-normal">Section</th>
                <th className="text-right font-normal">Pieces</th>
                <th className="text-right font-normal">Length on line</th>
                <th className="pr-2 text-right font-normal">Long points</th>
                {allowed && <th className="pr-2 text-right font-normal">From stock</th>}
                <th className="pr-2 text-right font-normal">Weight, {massUnit(units)}</th>
                <th className="pr-2 text-right font-normal">Painted, {areaUnit(units)}</th>
              </tr>
            </thead>
            <tbody>
              {shown.job.sections
                ?.filter((section) => shown.totals.sections[section.id])
                .map((section) => (
                  <Fragment key={section.id}>
                    <tr className="border-rule border-b">
                      <td className="py-1 pl-2">
                        <button
                          type="button"
                          data-walk="section"
                          title="Select its runs"
                          className="cursor-pointer text-left hover:text-chalk-deep"
                          onClick={() =>
                            select((shown.job.runs ?? []).flatMap((run) => (run.section === section.id ? run.id : [])))
                          }
                        >
                          {section.name}
                        </button>{" "}
                        <span className="figure text-pencil">{sizeWords(section, units)}</span>
                      </td>
                      <td className="figure text-right">{shown.totals.sections[section.id]?.pieces}</td>
                      <td className="figure text-right">
                        {formatLength(shown.totals.sections[section.id]?.line_length ?? 0, units)}
                      </td>
                      <td className="figure pr-2 text-right">
                        {formatLength(shown.totals.sections[section.id]?.bar ?? 0, units)}
                      </td>
                      {allowed && (
                        <td className="figure pr-2 text-right">
                          {formatLength(shown.totals.sections[section.id]?.from_stock ?? 0, units)}
                        </td>
                      )}
                      <Worth entry={entryOf("section", section.id)} />
                    </tr>
                    {Object.entries(shown.totals.sizes[section.id] ?? {}).map(([size, total]) => (
                      <tr key={size} className="border-rule border-b text-pencil">
                        <td className="py-1 pl-6">in {size}</td>
                        <td className="figure text-right">{total.pieces}</td>
                        <td className="figure text-right">{formatLength(total.line_length, units)}</td>
                        <td className="figure pr-2 text-right">{formatLength(total.bar, units)}</td>
                        {allowed && <td className="figure pr-2 text-right">{formatLength(total.from_stock, units)}</td>}
                        <td colSpan={2} />
                      </tr>
                    ))}
                    {entries
                      .filter((entry) => entry.kind === "bar" && entry.of === section.id)
                      .map((entry) => (
                        <tr key={sentence(entry.name)} className="border-rule border-b text-pencil">
                          <td className="py-1 pl-6">{sentence(entry.name)}</td>
                          <td className="figure text-right">{entry.items}</td>
                          <td colSpan={allowed ? 5 : 4} />
                        </tr>
                      ))}
                  </Fragment>
                ))}
              <tr className="font-semibold">
                <td className="py-1 pl-2">The job</td>
                <td className="figure text-right">{shown.totals.job.pieces}</td>
                <td className="figure text-right">{formatLength(shown.totals.job.line_length, units)}</td>
                <td className="figure pr-2 text-right">{formatLength(shown.totals.job.bar, units)}</td>
                {allowed && (
                  <td className="figure pr-2 text-right">{formatLength(shown.totals.job.from_stock, units)}</td>
                )}
                <Worth entry={entryOf("job", "")} />
              </tr>
            </tbody>
          </table>
        )}
        {(shown.rows.length > 0 || fittings.length > 0 || strips.length + cut.length + panes.length > 0) && (
          <table className="w-full self-start border-collapse">
            <thead>
              <tr className="border-ink border-b text-pencil text-sm">
                <th className="py-1.5 pl-2 text-left font-normal">Items</th>
                <th className="text-right font-normal">Count</th>
                <th className="pl-3 text-right font-normal">Centres</th>
                <th className="whitespace-nowrap pr-2 pl-3 text-right font-normal">Left over</th>
              </tr>
            </thead>
            <tbody>
              {fittings.map(([name, number]) => (
                <tr key={name} className="border-rule border-b">
                  <td className="py-1 pl-2">{name}</td>
                  <td className="figure text-right">{number}</td>
                  <td className="pl-3 text-right text-pencil">ends and corners</td>
                  <td />
                </tr>
              ))}
              {shown.rows.map((row) => {
                const centres = [...new Set(centresOf(row).map((mm) => formatLength(mm, fine)))];
                return (
                  <tr
                    key={row.id}
                    onClick={() => select([row.id])}
                    className={`cursor-pointer border-rule border-b ${isIn(selected, row.id) ? "bg-chalk-wash" : "hover:bg-white"}`}
                  >
                    <td className="py-1 pl-2">
                      <button type="button" data-walk="row" className="cursor-pointer text-left hover:text-chalk-deep">
                        {rowById(shown, row.id)?.name}
                      </button>
                    </td>
                    <td className="figure text-right">{row.count}</td>
                    {row.area === null ? (
                      <>
                        <td className="figure pl-3 text-right">
                          {centres.length > 2 ? `${centres.length} different` : centres.join(", ") || "–"}
                        </td>
                        <td className="figure pr-2 text-right">{formatLength(row.left_over, units)}</td>
                      </>
                    ) : (
                      <Ground area={row.area} words="on" />
                    )}
                  </tr>
                );
              })}
              {cut.map((entry) => (
                <tr key={`${entry.of} ${entry.kind}`} className="border-rule border-b">
                  <td className="py-1 pl-2">
                    <Words onClick={() => select([entry.of])}>{sentence(entry.name)}</Words>
                  </td>
                  <td className="figure text-right">{entry.spans}</td>
                  <td colSpan={2} className="pr-2 pl-3 text-right text-pencil">
                    {entry.kind}
                    {entry.spans === 1 ? "" : "s"}, to cut{" "}
                    <span className="figure text-ink">{formatLength(entry.cut ?? 0, units)}</span>
                  </td>
                </tr>
              ))}
              {panes.map((entry) => (
                <tr key={sentence(entry.name)} className="border-rule border-b">
                  <td className="py-1 pl-2">
                    <Words onClick={() => select([entry.of])}>{sentence(entry.name)}</Words>
                  </td>
                  <td className="figure text-right">{entry.items}</td>
                  <Ground area={entry.area ?? 0} words="in all" />
                </tr>
              ))}
              {strips.map((entry) => (
                <tr key={entry.of} className="border-rule border-b">
                  <td className="py-1 pl-2">
                    <Words onClick={() => select([entry.of])}>{sentence(entry.name)}</Words>
                  </td>
                  <td className="figure text-right">{entry.items || ""}</td>
                  <Ground area={entry.area ?? 0} words={entry.items ? "joints, on" : "on"} />
                </tr>
              ))}
              {entries
                .filter((entry) => entry.kind === "item")
                .map((entry) => (
                  <tr key={sentence(entry.name)} className="border-rule border-b text-pencil">
                    <td className="py-1 pl-6">{sentence(entry.name)}</td>
                    <td className="figure text-right">{entry.items}</td>
                    <td className="pl-3 text-right">in all</td>
                    <td />
                  </tr>
                ))}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}
