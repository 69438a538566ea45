/** The four steps, as an ordered list of what the job holds, each row with its one telling figure. */
import { type ReactNode, useRef } from "react";
import type { LineFigures, Point3 } from "../api/client";
import { lineWords } from "../card/LineCard";
import { LayPicture } from "../setting/PictureCard";
import { count, formatLength, sizeWords } from "../ui/figures";
import { useShown, useTold, useUnits } from "../window/job";
import { startDrawing } from "../window/keys";
import { useWindow } from "../window/store";
import { checksOf } from "../window/things";

export function JobSheet() {
  const shown = useShown();
  const units = useUnits();
  const told = useTold();
  const doubtOf = (figures: LineFigures | undefined) => (figures?.faults[0] ? told(figures.faults[0].what) : undefined);
  const { show, set, view } = useWindow();
  const { job, totals, checks } = shown;
  const list = useRef<HTMLElement>(null);
  const figures = new Map(shown.lines.map((line) => [line.id, line]));
  const faults = checks.filter((check) => check.severity === "fault").length;
  // Thousands of lines are not read in a list: the first ones, and those selected.
  const chosen = useWindow((state) => state.selected);
  const listed = (job.lines ?? []).filter((line, index) => index < 300 || chosen.includes(line.id));
  const walk = (event: React.KeyboardEvent) => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const rows = [...(list.current?.querySelectorAll<HTMLElement>("[data-row]") ?? [])];
    const at = rows.indexOf(document.activeElement as HTMLElement);
    const next = rows[at + (event.key === "ArrowDown" ? 1 : -1)];
    if (next) {
      event.preventDefault();
      next.focus();
      const id = next.dataset.row;
      if (id && event.shiftKey && !useWindow.getState().selected.includes(id)) useWindow.getState().toggle(id);
      else if (id) useWindow.getState().select([id]);
    }
  };
  return (
    <nav
      ref={list}
      aria-label="Job sheet"
      onKeyDown={walk}
      className="min-h-0 overflow-y-auto border-rule border-r py-3"
    >
      <Step number={1} name="Lines" figure={job.lines?.length ?? 0}>
        {listed.map((line) => (
          <Row
            key={line.id}
            id={line.id}
            name={line.name}
            figure={figures.has(line.id) ? formatLength(figures.get(line.id)?.length ?? 0, units) : "…"}
            about={figures.has(line.id) ? lineWords(line, figures.get(line.id)) : " "}
            doubt={doubtOf(figures.get(line.id))}
          />
        ))}
        {(job.lines?.length ?? 0) > listed.length && (
          <p className="py-[2.5px] pr-4 pl-9 text-pencil text-sm">
            … and {count((job.lines?.length ?? 0) - listed.length, "more line")}; click them in the drawing
          </p>
        )}
        <Acts>
          <Act onClick={startDrawing}>Draw a line</Act>
          <Act onClick={() => show("bringin")}>Import</Act>
          <Act onClick={() => set({ dialog: "walk" })}>Type a walk</Act>
        </Acts>
        {job.pictures?.map((picture) => (
          <Row
            key={picture.id}
            id={picture.id}
            name={picture.name}
            figure={picture.shown === false ? "hidden" : "picture"}
          />
        ))}
        <Acts>
          <LayPicture />
          <Act onClick={() => set({ dialog: "measures" })}>
            {job.measures?.length ? count(job.measures.length, "measure") : "Measures"}
          </Act>
        </Acts>
      </Step>
      <Step number={2} name="Sections" figure={job.sections?.length ?? 0}>
        {job.sections?.map((section) => (
          <Row key={section.id} id={section.id} name={section.name} figure={sizeWords(section, units)} />
        ))}
        <Acts>
          <Act onClick={() => show("library")}>Pick a section</Act>
        </Acts>
      </Step>
      <Step number={3} name="Runs and rows" figure={(job.runs?.length ?? 0) + (job.rows?.length ?? 0)}>
        {shown.job.runs?.map((run) => {
          const found = checksOf(shown, run.id);
          const bad = found.filter((check) => check.severity === "fault").length;
          return (
            <Row
              key={run.id}
              id={run.id}
              name={run.name}
              figure={
                bad
                  ? count(bad, "fault")
                  : found.length
                    ? count(found.length, "warning")
                    : totals.runs[run.id]
                      ? count(totals.runs[run.id]?.pieces ?? 0, "piece")
                      : "…"
              }
              fault={bad > 0}
            />
          );
        })}
        {shown.job.rows?.map((row) => (
          <Row
            key={row.id}
            id={row.id}
            name={row.name}
            figure={count(shown.rows.find((one) => one.id === row.id)?.count ?? 0, "item")}
          />
        ))}
        <Acts>
          <Act onClick={() => set({ dialog: "run" })} disabled={!job.lines?.length || !job.sections?.length}>
            Run a section
          </Act>
          <Act onClick={() => set({ dialog: "row" })} disabled={!job.lines?.length}>
            Set items out
          </Act>
        </Acts>
      </Step>
      <Step number={4} name="Cutting" figure={count(totals.job.pieces, "piece")}>
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
        {checks.map((check, index) => (
          <button
            key={index}
            type="button"
            title={`${told(check.what)} ${told(check.remedy)}`}
            onClick={() => goTo(shown.job, check)}
            className="flex w-full cursor-pointer items-baseline gap-1.5 py-[3px] pr-4 pl-9 text-left text-sm hover:bg-red-wash"
          >
            <span aria-hidden className={check.severity === "fault" ? "font-bold text-red" : "font-bold text-wax-deep"}>
              {check.severity === "fault" ? "!" : "?"}
            </span>
            <span className="line-clamp-2">{told(check.what)}</span>
          </button>
        ))}
        {checks.length === 0 && totals.job.pieces > 0 && (
          <p className="py-[3px] pl-9 text-pencil text-sm">No faults found</p>
        )}
        <span className="sr-only" role="status">
          {count(faults, "fault")}
        </span>
      </Step>
    </nav>
  );
}

/** Go to a check's place: select its run and piece, point at it, and bring it into view. */
function goTo(job: ReturnType<typeof useShown>["job"], check: ReturnType<typeof useShown>["checks"][number]) {
  const state = useWindow.getState();
  const line = job.runs?.find((run) => run.id === check.thing)?.line;
  state.select([check.thing], check.piece);
  if (state.view !== "plan" && state.view !== "solid") state.show(state.drawing);
  if (line) state.pointAt({ line, chainage: check.chainage });
  state.set({ look: check.point as Point3 });
}

function Step({
  number,
  name,
  figure,
  children,
}: {
  number: number;
  name: string;
  figure: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="mb-2.5">
      <h2 className="flex items-baseline px-4 py-[3px]">
        <span className="figure w-5 text-pencil text-xs">{number}</span>
        <span className="flex-1 font-semibold">{name}</span>
        <span className="figure text-pencil text-sm">{figure}</span>
      </h2>
      {children}
    </section>
  );
}

function Row({
  id,
  name,
  figure,
  fault,
  about,
  doubt,
}: {
  id: string;
  name: string;
  figure: string;
  fault?: boolean;
  about?: string;
  doubt?: string | undefined;
}) {
  const on = useWindow((state) => state.selected.includes(id));
  const { select, toggle } = useWindow();
  return (
    <button
      type="button"
      data-row={id}
      aria-pressed={on}
      onClick={(event) => (event.ctrlKey || event.metaKey || event.shiftKey ? toggle(id) : select([id]))}
      className={`block w-full cursor-pointer border-l-[3px] py-[2.5px] pr-4 pl-[33px] text-left ${
        on ? "border-chalk bg-chalk-wash" : "border-transparent hover:bg-paper/60"
      }`}
    >
      <span className="flex items-baseline gap-2">
        <span className="min-w-0 flex-1 truncate">
          {doubt && (
            <b className="text-wax-deep" title={doubt}>
              ?{" "}
            </b>
          )}
          {name}
        </span>
        <span
          className={`figure shrink-0 text-sm ${fault ? "font-semibold text-red" : on ? "text-chalk-deep" : "text-pencil"}`}
        >
          {fault && "! "}
          {figure}
        </span>
      </span>
      {about && <span className="figure -mt-0.5 block truncate text-pencil text-xs">{about}</span>}
    </button>
  );
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
