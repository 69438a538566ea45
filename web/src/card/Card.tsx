/** The card of what is selected: its settings as the questions the trade asks, and the checks that concern it. */
import { PictureCard } from "../setting/PictureCard";
import { Words } from "../ui/choices";
import { useChanges, useShown } from "../window/job";
import { remove } from "../window/keys";
import { useWindow } from "../window/store";
import { draftById, lineById, rowById, runById, sectionById, typicalById } from "../window/things";
import { Checks } from "./Checks";
import { LineCard } from "./line/LineCard";
import { RowCard } from "./row/RowCard";
import { RunCard } from "./run/RunCard";
import { DraftCard } from "./section/DraftCard";
import { SectionCard } from "./section/SectionCard";
import { TypicalCard } from "./typical/TypicalCard";

export function Card() {
  const shown = useShown();
  const changes = useChanges();
  const selected = useWindow((state) => state.selected);
  const runs = selected.map((id) => runById(shown, id)).filter((run) => run !== undefined);
  const lines = selected.map((id) => lineById(shown, id)).filter((line) => line !== undefined);
  const first = selected[0] ?? "";
  const section = sectionById(shown, first);
  const row = rowById(shown, first);
  const draft = draftById(shown, first);
  const typical = typicalById(shown, first);
  const picture = shown.job.pictures?.find((one) => one.id === first);
  return (
    <aside
      aria-label="Card"
      className="min-h-0 overflow-y-auto border-rule border-l px-4 py-3"
      key={selected.join(" ")}
    >
      {runs.length > 0 && <RunCard runs={runs} checks={<Checks ids={selected} />} />}
      {!runs.length && lines.length > 0 && <LineCard lines={lines} />}
      {section && <SectionCard section={section} />}
      {draft && <DraftCard draft={draft} />}
      {row && <RowCard row={row} checks={<Checks ids={[row.id]} />} />}
      {typical && <TypicalCard typical={typical} checks={<Checks ids={[typical.id]} />} />}
      {picture && <PictureCard picture={picture} />}
      {!typical && (
        <p className="mt-6 border-rule border-t pt-2">
          <Words onClick={() => remove(shown, changes)}>
            Remove {selected.length > 1 ? `these ${selected.length}` : "this"}
          </Words>
        </p>
      )}
    </aside>
  );
}
