/** The window of one job: job sheet, sheet, card and rod. */
import { useQueryClient } from "@tanstack/react-query";
import { useContext, useEffect, useRef } from "react";
import { type JobShown, problemOf } from "../api/client";
import { Card } from "../card/Card";
import { JobSheet } from "../jobsheet/JobSheet";
import { Rod } from "../rod/Rod";
import { Button, Words } from "../ui/choices";
import { Trouble } from "../ui/Trouble";
import { Wordmark } from "../ui/Wordmark";
import { Dialogs } from "./Dialogs";
import { useFigures, useFollow } from "./following";
import { groupIn } from "./groups";
import { Header } from "./Header";
import { JobId, Shown, useJobQuery, useShown } from "./job";
import { pickPlane, useKeys } from "./keys";
import { Panels } from "./Panels";
import { usePart, useWindow } from "./store";
import { wayOf } from "./views";

/** Things from which on a job is shown before all its figures have come. */
const LARGE = 100;

export function JobWindow({ id }: { id: string }) {
  const { data, error, refetch } = useJobQuery(id);
  const preview = useWindow((state) => state.preview);
  useFigures(id, Boolean(data?.coming));
  useEffect(() => {
    useWindow.setState(useWindow.getInitialState());
    return () => useWindow.setState(useWindow.getInitialState());
  }, []);
  if (error && !data) {
    const problem = problemOf(error);
    return (
      <div className="p-4">
        <Wordmark />
        <div role="alert" className="mt-6 max-w-xl border-red border-l-[3px] bg-red-wash px-4 py-3">
          <p className="mb-2">
            {problem.status === 404 ? "There is no such job here: it may be an old link." : problem.detail}
          </p>
          <Button onClick={() => void refetch()}>Try again</Button>
        </div>
      </div>
    );
  }
  // A small job is shown when all of it has come; of a large one the plan is there first.
  if (!data || (data.coming && data.coming.of < LARGE)) return <p className="p-6 text-pencil">Laying out the job …</p>;
  return (
    <JobId.Provider value={id}>
      <Shown.Provider value={preview ?? data}>
        <Laid />
      </Shown.Provider>
    </JobId.Provider>
  );
}

function Laid() {
  const view = useWindow((state) => state.view);
  const chosen = useWindow((state) => state.selected.length > 0);
  const shown = useShown();
  useKeys();
  const id = useContext(JobId);
  const client = useQueryClient();
  useFollow(id);
  useEffect(() => {
    // Asked when it is needed: what an edit has just made is known at once.
    const groupOf = (thing: string) => {
      const now = useWindow.getState().preview ?? client.getQueryData<JobShown>(["job", id]);
      return now ? groupIn(now.job, thing) : null;
    };
    useWindow.setState({ groupOf });
  }, [client, id]);
  useEffect(() => {
    document.title = `${shown.job.name} · Slow Ribbon`;
  }, [shown.job.name]);
  const sheet = useRef<HTMLElement>(null);
  // Whoever came by a key goes on in the view: Tab leads to its first control, not through the whole window.
  useEffect(() => {
    if (view && document.activeElement === document.body) sheet.current?.focus({ preventScroll: true });
  }, [view]);
  const asked = useWindow((state) => state.cardAsked);
  const picked = useWindow((state) => state.piece !== null);
  const way = wayOf(view);
  const card = chosen && (way.card === "asked" ? asked : way.card);
  // Where the list is read the rod is a strip, till a piece is picked.
  const thin = view === "cutting" && !picked;
  return (
    <div
      className={`grid h-full ${thin ? "grid-rows-[44px_minmax(0,1fr)_32px]" : "grid-rows-[44px_minmax(0,1fr)_166px]"} ${card ? "grid-cols-[250px_minmax(0,1fr)_306px]" : "grid-cols-[250px_minmax(0,1fr)]"}`}
    >
      <Header />
      <JobSheet />
      <main
        ref={sheet}
        tabIndex={-1}
        className="relative min-h-0 min-w-0 overflow-hidden bg-paper outline-none"
        aria-label="Sheet"
      >
        {way.drawing && <ViewSwitch />}
        <Trouble part="This view" about={view}>
          <Panels />
        </Trouble>
        <NotSaved />
        <Sentence />
        <Coming />
      </main>
      {card && <CardOfChosen />}
      <Rod thin={thin} />
      <Dialogs />
    </div>
  );
}

function CardOfChosen() {
  const selected = useWindow((state) => state.selected);
  return (
    <Trouble part="The card" about={selected.join()}>
      <Card />
    </Trouble>
  );
}

function ViewSwitch() {
  const view = useWindow((state) => state.view);
  const plane = useWindow((state) => state.plane);
  const { show, set, fit } = usePart("show", "set", "fit");
  const on = view === "solid" || view === "across" ? view : plane ? "upright" : "plan";
  const ways: [string, string, () => void][] = [
    [
      "plan",
      "Plan",
      () => {
        show("plan");
        if (plane) set({ plane: null, fit: fit + 1 });
      },
    ],
    ["solid", "3D", () => show("solid")],
    ["across", "Cut", () => show("across")],
    ["upright", "Elevation", () => (plane ? show("plan") : pickPlane())],
  ];
  return (
    <fieldset
      className="absolute top-3 left-3.5 z-10 flex overflow-hidden rounded-[3px] border border-edge"
      aria-label="View"
    >
      {ways.map(([way, words, act]) => (
        <button
          key={way}
          type="button"
          aria-pressed={on === way}
          onClick={act}
          className={`h-[26px] cursor-pointer px-3 text-sm ${on === way ? "bg-ink text-paper" : "bg-paper text-pencil hover:text-ink"}`}
        >
          {words}
        </button>
      ))}
    </fieldset>
  );
}

/** How far a large job is laid out, while its figures come. */
function Coming() {
  const { coming } = useShown();
  if (!coming) return null;
  return (
    <p role="status" className="absolute right-4 bottom-10 z-10 bg-paper/90 px-1 py-1 text-pencil text-sm">
      Laying out <span className="figure">{coming.done}</span> of <span className="figure">{coming.of}</span> lines,
      runs and rows …
    </p>
  );
}

const lowered = (words: string) => words.charAt(0).toLowerCase() + words.slice(1);

/** A change that is not saved yet, because nothing could take it: it waits here and is sent again by itself. */
function NotSaved() {
  const waiting = useWindow((state) => state.waiting);
  useEffect(() => {
    if (!waiting) return;
    const stay = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", stay);
    return () => window.removeEventListener("beforeunload", stay);
  }, [waiting]);
  if (!waiting) return null;
  return (
    <div
      role="alert"
      className="absolute top-12 left-1/2 z-20 flex w-max max-w-[90%] -translate-x-1/2 items-start gap-4 whitespace-nowrap border-red border-l-[3px] bg-red-wash px-3 py-2 text-sm shadow"
    >
      <span className="whitespace-normal">
        Your last change is not saved yet: {lowered(waiting.problem.title)}. It is kept here and sent again by itself.
      </span>
      <Words onClick={waiting.again}>Send now</Words>
      <Words onClick={waiting.discard}>Discard my change</Words>
    </div>
  );
}

/** What went wrong with the last edit, over the foot of the sheet, until it is put away or something works. */
function Sentence() {
  const problem = useWindow((state) => state.problem);
  const notice = useWindow((state) => state.notice);
  const set = useWindow((state) => state.set);
  if (!problem && !notice) return null;
  return (
    <div
      role={problem ? "alert" : "status"}
      className={`absolute top-3 left-1/2 z-20 flex w-max max-w-[46%] -translate-x-1/2 items-start gap-3 border-l-[3px] px-3 py-2 text-sm shadow ${
        problem ? "border-red bg-red-wash" : "border-chalk bg-chalk-wash"
      }`}
    >
      <span>{problem ? problem.detail : notice}</span>
      <Words onClick={() => set({ problem: null, notice: null })}>Dismiss</Words>
    </div>
  );
}
