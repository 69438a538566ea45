/** Everything that is asked or reported over the window. */
import { useQuery } from "@tanstack/react-query";
import { useContext } from "react";
import { answer, api, type PastRevision, problemOf } from "../api/client";
import { NewRow } from "../card/row/NewRow";
import { NewRuns } from "../card/run/NewRuns";
import { Clashes } from "../cutting/Clashes";
import { WalkDialog } from "../drafting/WalkDialog";
import { Measures } from "../setting/Measures";
import { Beside, CopyLines, Simplify } from "../setting/MoreLines";
import { MorePlaces } from "../setting/MorePlaces";
import { NewFrame } from "../setting/NewFrame";
import { Openings } from "../setting/Openings";
import { Rules } from "../setting/Rules";
import { Button, Tick } from "../ui/choices";
import { Modal } from "../ui/Modal";
import { when } from "../ui/when";
import { HandOver } from "./HandOver";
import { JobId, useChanges, useShown } from "./job";
import { keyGroups } from "./keys";
import { setLetters, usePart, useWindow } from "./store";

export function Dialogs() {
  const { dialog, conflict, ask, set } = usePart("dialog", "conflict", "ask", "set");
  const close = () => set({ dialog: null });
  return (
    <>
      {dialog === "run" && <NewRuns close={close} />}
      {dialog === "row" && <NewRow close={close} />}
      {dialog === "frame" && <NewFrame close={close} />}
      {dialog === "walk" && <WalkDialog close={close} />}
      {dialog === "measures" && <Measures close={close} />}
      {dialog === "rules" && <Rules close={close} />}
      {dialog === "clashes" && <Clashes close={close} />}
      {dialog === "places" && <MorePlaces close={close} />}
      {dialog === "openings" && <Openings close={close} />}
      {dialog === "follow" && <Beside close={close} />}
      {dialog === "copy" && <CopyLines close={close} />}
      {dialog === "simplify" && <Simplify close={close} />}
      {dialog === "keys" && <Keys close={close} />}
      {dialog === "handover" && <HandOver close={close} />}
      {dialog === "history" && <History close={close} />}
      {conflict && <Behind />}
      {ask && (
        <Modal title="Before this is done" close={() => set({ ask: null })}>
          <p className="mb-4">{ask.what}</p>
          <div className="flex justify-end gap-2">
            <Button onClick={() => set({ ask: null })}>Cancel</Button>
            <Button
              strong
              onClick={() => {
                set({ ask: null });
                ask.act();
              }}
            >
              {ask.yes}
            </Button>
          </div>
        </Modal>
      )}
    </>
  );
}

/** Another window has changed the job: say what, and let the person decide about their own edit. */
function Behind() {
  const conflict = useWindow((state) => state.conflict);
  const set = useWindow((state) => state.set);
  const { catchUp, edit } = useChanges();
  if (!conflict) return null;
  const settle = async (again: boolean) => {
    try {
      await catchUp();
    } catch (error) {
      set({ problem: problemOf(error) });
      return;
    }
    set({ conflict: null });
    if (again) await edit(conflict.edits);
  };
  return (
    <Modal title="This job has changed in another window" close={() => undefined}>
      <p>Since you last saw it:</p>
      <ul className="my-2 max-h-48 list-disc overflow-auto pl-5">
        {conflict.changes.map((change, index) => (
          <li key={index}>{change}</li>
        ))}
      </ul>
      <p className="mb-4">
        {conflict.edits.length
          ? "Your own change has not been saved. It is kept here until you decide."
          : "Your undo was not made."}
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={() => void settle(false)}>{conflict.edits.length ? "Discard my change" : "Reload"}</Button>
        {conflict.edits.length > 0 && (
          <Button strong onClick={() => void settle(true)}>
            Reapply my change
          </Button>
        )}
      </div>
    </Modal>
  );
}

function Keys({ close }: { close: () => void }) {
  const letters = useWindow((state) => state.letters);
  return (
    <Modal title="Shortcuts" close={close} widest>
      <div className="columns-3 gap-7">
        {keyGroups.map(([name, keys]) => (
          <section key={name} className="mb-4 break-inside-avoid">
            <h3 className="mb-1 font-semibold text-sm">{name}</h3>
            <dl className="grid grid-cols-[106px_1fr] gap-y-1 text-sm">
              {keys.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt>
                    {key.split(" ").map((part) => (
                      <kbd key={part} className="mr-1">
                        {part}
                      </kbd>
                    ))}
                  </dt>
                  <dd className="text-pencil">{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <div className="mt-3 flex items-center justify-between">
        <Tick label="Single-letter shortcuts" checked={letters} set={setLetters} />
        <Button strong onClick={close}>
          Close
        </Button>
      </div>
    </Modal>
  );
}

function History({ close }: { close: () => void }) {
  const id = useContext(JobId);
  const shown = useShown();
  const past = useQuery({
    queryKey: ["history", id, shown.revision],
    queryFn: () => answer<PastRevision[]>(api.GET("/api/jobs/{id}/history", { params: { path: { id } } })),
  });
  return (
    <Modal title="History" close={close}>
      <ol className="mb-4 max-h-[50vh] divide-y divide-rule overflow-auto border-rule border-y">
        {past.data?.map((one) => (
          <li
            key={one.number}
            className={`flex gap-3 px-1 py-1.5 text-sm ${one.undone ? "text-pencil" : ""} ${one.current ? "bg-chalk-wash" : ""}`}
          >
            <span className="figure w-8 text-right text-pencil">{one.number}</span>
            <span className={`flex-1 ${one.undone ? "line-through" : ""}`}>{one.said}</span>
            <span className="whitespace-nowrap text-pencil">
              {one.author && `${one.author} · `}
              {when(one.made_at)}
            </span>
            {one.undone && <span className="text-pencil">undone</span>}
            {one.current && <span className="text-chalk-deep">as it stands</span>}
          </li>
        ))}
        {past.isLoading && <li className="py-2 text-pencil">Fetching …</li>}
      </ol>
      <div className="flex justify-end">
        <Button onClick={close}>Close</Button>
      </div>
    </Modal>
  );
}
