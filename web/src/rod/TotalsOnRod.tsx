/** The rod while nothing is selected: all that is to be cut, section by section, and what it comes to together. */
import { toneOf } from "../sheet/tones";
import { count, formatLength, sizeWords } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";

export function TotalsOnRod({ thin }: { thin: boolean }) {
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const { job, totals } = shown;
  const parts = (job.sections ?? []).flatMap((section) => {
    const total = totals.sections[section.id];
    return total && total.bar > 0 ? [{ section, total }] : [];
  });
  const faults = shown.checks.filter((check) => check.severity === "fault").length;
  return (
    <section
      aria-label="Rod"
      className={`col-span-full flex min-w-0 flex-col border-rule border-t px-4 ${thin ? "pt-1.5" : "pt-2"}`}
    >
      <p className="flex justify-between gap-6 text-sm">
        <span className="truncate">
          <b>All that is cut</b>
          <span className="ml-4 text-pencil">
            {count(totals.job.pieces, "piece")} · {count(totals.items, "item")} set out ·{" "}
            {faults ? count(faults, "fault") : "no faults"}
          </span>
        </span>
        <span className="whitespace-nowrap text-pencil">
          long points together <b className="figure text-ink">{formatLength(totals.job.bar, units)}</b>
        </span>
      </p>
      {thin ? null : parts.length === 0 ? (
        <p className="mt-[26px] flex h-[78px] items-center justify-center rounded-[2px] border border-lath-deep bg-gradient-to-b from-lath to-lath-deep text-pencil text-sm opacity-80">
          Select a run, a row or a line and it lies here unrolled, with its corners, pieces and items by chainage.
        </p>
      ) : (
        <>
          <ul aria-label="Sections" className="mt-3 flex h-[78px] gap-px overflow-x-auto overflow-y-hidden">
            {parts.map(({ section, total }) => (
              // As wide as it is long, and never too narrow to be read.
              <li key={section.id} className="min-w-[112px]" style={{ flexGrow: total.bar, flexBasis: 0 }}>
                <button
                  type="button"
                  title={`${section.name} ${sizeWords(section, units)}: ${count(total.pieces, "piece")}, ${formatLength(total.bar, units)}`}
                  onClick={() =>
                    select((job.runs ?? []).filter((run) => run.section === section.id).map((run) => run.id))
                  }
                  className="h-full w-full cursor-pointer overflow-hidden whitespace-nowrap rounded-[2px] border border-lath-deep bg-gradient-to-b from-lath to-lath-deep px-1.5 pt-2 text-left hover:border-pencil"
                  style={{ boxShadow: `inset 0 -5px 0 ${toneOf(section.material).face}` }}
                >
                  <span className="sr-only">Select all runs of </span>
                  <b className="line-clamp-2 whitespace-normal text-sm leading-tight">{section.name}</b>
                  <span className="figure block truncate text-pencil text-xs">
                    {count(total.pieces, "piece")} · {formatLength(total.bar, units)}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <p className="mt-2 truncate text-pencil text-xs">
            A click selects all runs of a section. A run, a row or a line lies here unrolled when it is selected.
          </p>
        </>
      )}
    </section>
  );
}
