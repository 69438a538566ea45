/** The four steps, as an ordered list of what the job holds, each row with its one telling figure. */
import { type ReactNode, useEffect, useMemo, useRef } from "react";
import type { Draft } from "../api/client";
import { LayPicture } from "../setting/LayPicture";
import { count, formatLength, grouped } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { startDrawing, startOutline } from "../window/keys";
import { isIn } from "../window/selection";
import { usePart, useWindow } from "../window/store";
import { AcceptedRow, CheckRow, GroupRow, ThingRow } from "./entries";
import { Finding } from "./Finding";
import { isAsking, type Listed, listed, type StepName } from "./listing";
import { HEAD, type Item, Rows, STEPS } from "./Rows";
import { useSheet } from "./sheet";

/** A job that holds fewer things than this is seen at a glance. */
const MANY = 9;

export function JobSheet() {
  const shown = useShown();
  const units = useUnits();
  const { show, set, view } = usePart("show", "set", "view");
  const chosen = useWindow((state) => state.selected[0] ?? null);
  const { words, only, by, folded, fold } = useSheet();
  const { job, totals, checks, accepted } = shown;
  const box = useRef<HTMLDivElement>(null);
  const asked = useMemo(() => ({ words, only, by }), [words, only, by]);
  const steps = useMemo(() => {
    const list = (step: StepName) => listed(shown, step, asked, folded, (mm) => formatLength(mm, units));
    return { lines: list("lines"), sections: list("sections"), runs: list("runs") };
  }, [shown, asked, folded, units]);
  const faults = checks.filter((check) => check.severity === "fault").length;
  const id = shown.id;
  useEffect(() => useSheet.getState().open(id), [id]);

  const things = steps.lines.all + steps.sections.all + steps.runs.all;
  const walk = (event: React.KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement) return;
    const here = document.activeElement as HTMLElement;
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a" && here.dataset.row) {
      const list = Object.values(steps).find((step) => step.ids.includes(here.dataset.row ?? ""));
      event.preventDefault();
      if (list)
        useWindow.getState().selectAlike([here.dataset.row, ...list.ids.filter((id) => id !== here.dataset.row)]);
      return;
    }
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const rows = [...(box.current?.querySelectorAll<HTMLElement>("[data-row]") ?? [])];
    const at = rows.indexOf(here);
    const next = rows[at + (event.key === "ArrowDown" ? 1 : -1)];
    if (!next) return;
    event.preventDefault();
    next.focus();
    const found = next.dataset.row;
    if (found && event.shiftKey && !isIn(useWindow.getState().selected, found)) useWindow.getState().toggle(found);
    else if (found) useWindow.getState().select([found]);
  };

  const items = useMemo(() => {
    const rows = (of: Listed): Item[] =>
      of.entries.map((entry) => ({
        key: entry.key,
        high: entry.kind === "thing" && entry.of === "lines" ? 39 : 25,
        draw: () =>
          entry.kind === "group" ? (
            <GroupRow entry={entry} folded={folded.has(entry.key)} fold={() => fold(entry.key)} />
          ) : (
            <ThingRow id={entry.id} of={entry.of} inGroup={entry.in !== ""} among={of.ids} />
          ),
      }));
    return { lines: rows(steps.lines), sections: rows(steps.sections), runs: rows(steps.runs) };
  }, [steps, folded, fold]);
  const rules = (job.rules?.length ?? 0) + (job.row_rules?.length ?? 0);
  const step = (name: StepName) => ({
    folded: folded.has(name),
    fold: () => fold(name),
    found: isAsking(asked) ? steps[name] : null,
  });
  const rows = (name: StepName, number: number) => (
    <>
      <Rows items={items[name]} box={box} step={number} seek={chosen} />
      {isAsking(asked) && !steps[name].ids.length && steps[name].all > 0 && (
        <p className="py-[2.5px] pl-9 text-pencil text-sm">None of them</p>
      )}
    </>
  );
  return (
    <nav aria-label="Job sheet" onKeyDown={walk} className="flex min-h-0 flex-col border-rule border-r pt-3">
      {(things >= MANY || isAsking(asked) || by !== "none") && <Finding />}
      <div
        ref={box}
        className="relative min-h-0 flex-1 overflow-y-auto"
        // What is walked to comes into sight between the heads.
        style={{ scrollPaddingTop: STEPS * HEAD, scrollPaddingBottom: (STEPS - 1) * HEAD }}
      >
        <Head step={0} name="Lines" figure={job.lines?.length ?? 0} {...step("lines")} />
        {!folded.has("lines") && (
          <Body>
            {rows("lines", 0)}
            <Acts>
              <Act onClick={startDrawing}>Draw a line</Act>
              <Act onClick={() => show("bringin")}>Import</Act>
              <Act onClick={() => set({ dialog: "walk" })}>Type a walk</Act>
              <Act onClick={() => set({ dialog: "frame" })}>Make a frame</Act>
            </Acts>
            <Acts>
              <LayPicture />
              <Act onClick={() => set({ dialog: "measures" })}>
                {job.measures?.length ? count(job.measures.length, "measure") : "Measures"}
              </Act>
            </Acts>
          </Body>
        )}
        <Head step={1} name="Sections" figure={job.sections?.length ?? 0} {...step("sections")} />
        {!folded.has("sections") && (
          <Body>
            {rows("sections", 1)}
            {job.drafts?.map((draft) => (
              <DraftRow key={draft.id} draft={draft} />
            ))}
            <Acts>
              <Act onClick={() => show("library")}>Pick a section</Act>
              <Act onClick={startOutline}>Draw one</Act>
              <LayPicture under="new" />
            </Acts>
          </Body>
        )}
        <Head
          step={2}
          name="Runs and rows"
          figure={(job.runs?.length ?? 0) + (job.rows?.length ?? 0)}
          {...step("runs")}
        />
        {!folded.has("runs") && (
          <Body>
            {rows("runs", 2)}
            <Acts>
              <Act onClick={() => set({ dialog: "run" })} disabled={!job.lines?.length || !job.sections?.length}>
                Run a section
              </Act>
              <Act onClick={() => set({ dialog: "row" })} disabled={!job.lines?.length}>
                Set items out
              </Act>
              {job.lines?.length && (job.sections?.length || job.rows?.length) ? (
                <Act onClick={() => set({ dialog: "rules" })}>{rules ? count(rules, "rule") : "By rule"}</Act>
              ) : null}
            </Acts>
          </Body>
        )}
        <Head
          step={3}
          name="Cutting"
          figure={count(totals.job.pieces, "piece")}
          faults={faults}
          folded={folded.has("cutting")}
          fold={() => fold("cutting")}
          found={null}
        />
        {!folded.has("cutting") && (
          <Body>
            <button
              type="button"
              data-row=""
              onClick={() => show("cutting")}
              className={`flex w-full cursor-pointer items-baseline border-l-[3px] py-[2.5px] pr-4 pl-[33px] text-left ${
                view === "cutting" ? "border-chalk bg-chalk-wash" : "border-transparent hover:bg-paper/60"
              }`}
            >
              <span className="flex-1">Cutting list</span>
              <span className="figure text-pencil text-sm">{formatLength(totals.job.bar, units)}</span>
            </button>
            <Rows
              items={checks.map((check, index) => ({
                key: `${check.thing} ${index}`,
                high: 41,
                any: true,
                draw: () => <CheckRow check={check} />,
              }))}
              box={box}
              step={3}
              seek={null}
            />
            {accepted.map(({ check, reason }) => (
              <AcceptedRow key={`${check.thing} ${check.key}`} check={check} reason={reason} />
            ))}
            {checks.length === 0 && totals.job.pieces > 0 && (
              <p className="py-[3px] pl-9 text-pencil text-sm">No faults found</p>
            )}
            {(job.runs?.length ?? 0) > 1 && (
              <Acts>
                <Act onClick={() => set({ dialog: "clashes" })}>Look for clashes</Act>
              </Acts>
            )}
          </Body>
        )}
        <span className="sr-only" role="status">
          {count(faults, "fault")}
        </span>
      </div>
    </nav>
  );
}

/** A draft of a section: it is drawn, but cannot be run yet. */
function DraftRow({ draft }: { draft: Draft }) {
  const { selected, select } = usePart("selected", "select");
  const on = selected.includes(draft.id);
  return (
    <button
      type="button"
      data-row=""
      onClick={() => select([draft.id])}
      className={`flex w-full cursor-pointer items-baseline border-l-[3px] py-[2.5px] pr-4 pl-[33px] text-left ${
        on ? "border-chalk bg-chalk-wash" : "border-transparent hover:bg-paper/60"
      }`}
    >
      <span className="min-w-0 flex-1 truncate">{draft.name}</span>
      <span className="text-pencil text-sm italic">draft</span>
    </button>
  );
}

/** The head of a step: it folds what stands under it, and stays in sight. */
function Head({
  step,
  name,
  figure,
  folded,
  fold,
  found,
  faults,
}: {
  step: number;
  name: string;
  figure: ReactNode;
  folded: boolean;
  fold: () => void;
  /** What was found under it, where something is looked for. */
  found: Listed | null;
  faults?: number;
}) {
  const select = useWindow((state) => state.selectAlike);
  return (
    <h2
      className="sticky z-10 flex items-baseline bg-bench pr-4 pl-1.5"
      style={{ top: step * HEAD, bottom: (STEPS - step - 1) * HEAD, height: HEAD }}
    >
      <button
        type="button"
        data-row=""
        aria-expanded={!folded}
        onClick={(event) => {
          if (folded || !broughtIn(event.currentTarget.closest("h2"), step)) fold();
        }}
        className="flex min-w-0 flex-1 cursor-pointer items-baseline py-[3px] text-left hover:text-chalk-deep"
      >
        <span aria-hidden className="w-3.5 shrink-0 text-[9px] text-pencil leading-none">
          {folded ? "▸" : "▾"}
        </span>
        <span className="figure w-4 text-pencil text-xs">{step + 1}</span>
        <span className="flex-1 truncate font-semibold">{name}</span>
      </button>
      {found && found.ids.length > 0 && (
        <button
          type="button"
          onClick={() => select(found.ids)}
          className="mr-2 cursor-pointer whitespace-nowrap text-chalk-deep text-sm underline decoration-chalk/30 underline-offset-[3px] hover:decoration-chalk"
        >
          Select {grouped(String(found.ids.length))}
        </button>
      )}
      {faults ? (
        <span className="figure mr-2 font-semibold text-red text-sm" title={count(faults, "fault")}>
          ! {faults}
        </span>
      ) : null}
      <span className="figure text-pencil text-sm">
        {typeof figure === "number" ? grouped(String(figure)) : figure}
      </span>
    </h2>
  );
}

/** Bring what stands under a head into sight; tell whether it was out of sight, and only its head was seen. */
function broughtIn(head: Element | null, step: number): boolean {
  const [body, box] = [head?.nextElementSibling, head?.parentElement];
  if (!(body instanceof HTMLElement) || !box) return false;
  const [top, bottom] = [
    box.scrollTop + (step + 1) * HEAD,
    box.scrollTop + box.clientHeight - (STEPS - step - 1) * HEAD,
  ];
  if (body.offsetTop < bottom && body.offsetTop + body.offsetHeight > top) return false;
  box.scrollTo({ top: body.offsetTop - (step + 1) * HEAD });
  return true;
}

function Body({ children }: { children: ReactNode }) {
  return <div className="pb-2.5">{children}</div>;
}

/** What can be added to a step, in a row of words under it. */
function Acts({ children }: { children: ReactNode }) {
  return <div className="flex flex-wrap gap-x-3 gap-y-0.5 py-[2.5px] pr-2 pl-9">{children}</div>;
}

function Act({ children, onClick, disabled }: { children: ReactNode; onClick: () => void; disabled?: boolean }) {
  return (
    <button
      type="button"
      disabled={disabled}
      onClick={onClick}
      className="cursor-pointer whitespace-nowrap text-chalk-deep text-sm underline decoration-chalk/30 underline-offset-[3px] hover:decoration-chalk disabled:cursor-default disabled:text-pencil disabled:no-underline"
    >
      {children}
    </button>
  );
}
