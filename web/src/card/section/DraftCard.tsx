/** The card of a draft: what is wrong with it, what mends it, and what becomes of it. */
import { useCallback, useState } from "react";
import type { Draft, Edit, OutlineDrawn, OutlineThickened } from "../../api/client";
import { FaultsTold } from "../../sectiondesk/Faults";
import { isClosed, type OutlineSketch, useFaults } from "../../sectiondesk/sketch";
import { Thickness } from "../../sectiondesk/Thickness";
import { Button, Words } from "../../ui/choices";
import { Question, TextField } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { sectionById } from "../../window/things";
import { TracedFrom } from "./TracedFrom";

export function DraftCard({ draft }: { draft: Draft }) {
  const shown = useShown();
  const { edit, make } = useChanges();
  const { select, thickened, set } = usePart("select", "thickened", "set");
  const [thick, setThick] = useState(false);
  const outline = (draft.outline ?? null) as OutlineDrawn | null;
  const faults = useFaults(outline, draft.holes);
  const look = useCallback((made: OutlineThickened | null) => set({ thickened: made }), [set]);
  const meant = sectionById(shown, draft.section ?? undefined);
  const closed = outline !== null && isClosed(outline as OutlineSketch);
  const change = (changes: object) => edit([{ kind: "set_draft", draft: draft.id, ...changes } as unknown as Edit]);
  const sound = outline !== null && faults.every((fault) => fault.kind === "sliver");
  const become = async () => {
    const { problem, made } = await make([{ kind: "section_of_draft", draft: draft.id }]);
    if (!problem) select(meant ? [meant.id] : made);
  };
  return (
    <>
      <TextField label="Name of the draft" value={draft.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        A draft: it is kept, but cannot be run.
        {meant && ` It is meant for ${meant.name}, which stays as it is until then.`}
      </p>
      {faults.length > 0 && (
        <>
          <Question>What is wrong with it?</Question>
          <FaultsTold faults={faults} mend={(outline) => void change({ outline })} />
        </>
      )}
      <TracedFrom id={draft.id} />
      <Question>What becomes of it?</Question>
      <p>
        <Button strong disabled={!sound} onClick={() => void become()}>
          {meant ? `Make it the outline of ${meant.name}` : "Make it a section"}
        </Button>
      </p>
      {!thick && outline && (
        <p className="pt-1.5">
          <Words onClick={() => setThick(true)}>Give it a thickness</Words>
        </p>
      )}
      {thick && outline && (
        <>
          <Question>How thick is it along what is drawn?</Question>
          <Thickness
            outline={outline}
            closed={closed}
            look={look}
            take={(made) => {
              setThick(false);
              void change({ outline: made.outline, holes: made.holes });
            }}
            leave={() => setThick(false)}
          />
          {thickened && <p className="pt-1 text-pencil text-sm">The desk shows what comes of it.</p>}
        </>
      )}
    </>
  );
}
