/** What stands in the job sheet under its steps: things, groups of them, and checks. */
import { memo } from "react";
import type { JobShown, Point3 } from "../api/client";
import type { Group } from "../api/groups";
import { KINDS } from "../kinds";
import { count, grouped } from "../ui/figures";
import { byId } from "../window/groups";
import { useSentence, useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { wayOf } from "../window/views";
import { type Entry, reach } from "./listing";

export const ThingRow = memo(function ThingRow({
  id,
  of,
  inGroup,
  among,
}: {
  id: string;
  of: Group;
  inGroup: boolean;
  /** The ids of the step's list, in order. */
  among: readonly string[];
}) {
  const shown = useShown();
  const units = useUnits();
  const sentence = useSentence();
  const on = useWindow((state) => isIn(state.selected, id));
  const { select, selectAlike, toggle } = useWindow.getState();
  const thing = byId<{ id: string }>(shown.job[of], id);
  const entry = thing && KINDS[of].entry?.(shown, thing, { units, sentence });
  if (!entry) return null;
  const { name, figure, about, doubt, fault } = entry;
  return (
    <button
      type="button"
      data-row={id}
      aria-pressed={on}
      onClick={(event) =>
        event.shiftKey
          ? selectAlike(reach(among, useWindow.getState().selected[0], id))
          : event.ctrlKey || event.metaKey
            ? toggle(id)
            : select([id])
      }
      className={`block w-full cursor-pointer border-l-[3px] py-[2.5px] pr-4 ${inGroup ? "pl-[45px]" : "pl-[33px]"} text-left ${
        on ? "border-chalk bg-chalk-wash" : "border-transparent hover:bg-paper/60"
      }`}
    >
      <span className="flex items-baseline gap-2">
        <span className="min-w-0 flex-1 truncate" title={name}>
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
});

/** A group: its sign folds it, its name selects all that is in it. */
export function GroupRow({
  entry,
  folded,
  fold,
}: {
  entry: Extract<Entry, { kind: "group" }>;
  folded: boolean;
  fold: () => void;
}) {
  const select = useWindow((state) => state.selectAlike);
  return (
    <div className="flex items-baseline py-[2.5px] pr-4 pl-[33px]">
      <button
        type="button"
        aria-label={`${folded ? "Unfold" : "Fold"} ${entry.name}`}
        aria-expanded={!folded}
        onClick={fold}
        className="w-3.5 shrink-0 cursor-pointer text-left text-[9px] text-pencil leading-none hover:text-ink"
      >
        {folded ? "▸" : "▾"}
      </button>
      <button
        type="button"
        data-row=""
        title={`Select ${count(entry.ids.length, "thing")}`}
        onClick={() => select(entry.ids)}
        className="min-w-0 flex-1 cursor-pointer truncate text-left font-medium text-sm hover:text-chalk-deep"
      >
        {entry.name}
      </button>
      <span className="figure text-pencil text-sm">{grouped(String(entry.ids.length))}</span>
    </div>
  );
}

export function CheckRow({ check }: { check: JobShown["checks"][number] }) {
  const { job } = useShown();
  const sentence = useSentence();
  return (
    <button
      type="button"
      title={`${sentence(check.what)} ${sentence(check.remedy)}`}
      onClick={() => goTo(job, check)}
      className="flex w-full cursor-pointer items-baseline gap-1.5 py-[3px] pr-4 pl-9 text-left text-sm hover:bg-red-wash"
    >
      <span aria-hidden className={check.severity === "fault" ? "font-bold text-red" : "font-bold text-wax-deep"}>
        {check.severity === "fault" ? "!" : "?"}
      </span>
      <span className="line-clamp-2">{sentence(check.what)}</span>
    </button>
  );
}

/** A check that somebody accepted, and why. */
export function AcceptedRow({ check, reason }: { check: JobShown["checks"][number]; reason: string }) {
  const { job } = useShown();
  const sentence = useSentence();
  return (
    <button
      type="button"
      title={`Accepted: ${sentence(check.what)} ${reason}`}
      onClick={() => goTo(job, check)}
      className="flex w-full cursor-pointer items-baseline gap-1.5 py-[3px] pr-4 pl-9 text-left text-pencil text-sm hover:bg-paper/60"
    >
      <span aria-hidden>✓</span>
      <span className="line-clamp-2">accepted: {reason}</span>
    </button>
  );
}

/** Go to a check's place: select its run and piece, point at it, and bring it into view. */
function goTo(job: JobShown["job"], check: JobShown["checks"][number]) {
  const state = useWindow.getState();
  const line = job.runs?.find((run) => run.id === check.thing)?.line;
  state.select([check.thing], check.piece);
  if (!wayOf(state.view).drawing) state.show(state.drawing);
  if (line) state.pointAt({ line, chainage: check.chainage });
  state.set({ look: check.point as Point3 });
}
