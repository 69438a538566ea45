/** The card of what is selected: its settings as the questions the trade asks, and the checks that concern it. */
import type { Group } from "../api/groups";
import { KINDS } from "../kinds";
import { AllQuestions, PointedAt } from "../ui/Asked";
import { Words } from "../ui/choices";
import { byId, groupIn } from "../window/groups";
import { useChanges, useShown } from "../window/job";
import { remove } from "../window/keys";
import { useWindow } from "../window/store";
import { checksOf } from "../window/things";
import { Checks } from "./Checks";
import { QUESTION_OF } from "./questions";

export function Card() {
  const shown = useShown();
  const changes = useChanges();
  const selected = useWindow((state) => state.selected);
  const of = (group: Group) =>
    selected.map((id) => byId<{ id: string }>(shown.job[group], id)).filter((thing) => thing !== undefined);
  const together = (Object.keys(KINDS) as Group[]).find((group) => KINDS[group].together && of(group).length);
  const group = together ?? (selected[0] === undefined ? null : groupIn(shown.job, selected[0]));
  const kind = group ? KINDS[group] : undefined;
  const things = group ? of(group) : [];
  const pointed = new Set(
    selected.flatMap((id) => checksOf(shown, id).flatMap((check) => QUESTION_OF[check.kind] ?? [])),
  );
  return (
    <aside
      aria-label="Card"
      className="min-h-0 overflow-y-auto border-rule border-l px-4 py-3"
      key={selected.join(" ")}
    >
      <PointedAt.Provider value={pointed}>
        {kind?.card?.(things, <Checks ids={kind.together ? selected : selected.slice(0, 1)} />)}
      </PointedAt.Provider>
      <p className="mt-4 flex justify-between gap-3 text-sm">
        {!kind?.removesItself && (
          <Words onClick={() => remove(shown, changes)}>
            Remove {selected.length > 1 ? `these ${selected.length}` : "this"}
          </Words>
        )}
        <AllQuestions />
      </p>
    </aside>
  );
}
