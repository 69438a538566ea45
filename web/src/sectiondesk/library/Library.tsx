/** The starting library: pick an outline; it becomes a section of the job at the size given. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { answer, api, problemOf } from "../../api/client";
import { Button, Choice, Tick, Words } from "../../ui/choices";
import { LengthField, useForm } from "../../ui/fields";
import { count } from "../../ui/figures";
import { when } from "../../ui/when";
import { useChanges } from "../../window/job";
import { usePart } from "../../window/store";
import { NewPolygon } from "./NewPolygon";
import { finder } from "./searching";
import { type Shelved, useShelf, type Which } from "./shelves";
import { useShopActs } from "./shop";
import { Tiles } from "./Tiles";

export function Library() {
  const [which, setWhich] = useState<Which>("starting");
  const { data, error, refetch, late } = useShelf(which);
  const { data: supplier } = useQuery({
    queryKey: ["supplier"],
    queryFn: () => answer<{ there: boolean }>(api.GET("/api/supplier")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [picked, setPicked] = useState<Shelved | null>(null);
  const { show, drawing } = usePart("show", "drawing");
  const [looked, setLooked] = useState("");
  const [alike, setAlike] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const found = useMemo(() => data?.filter(finder(looked)), [data, looked]);
  const largest = (found ?? []).reduce((most, { section }) => Math.max(most, section.width, section.height), 0);
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-baseline justify-between px-6 pt-4 pb-2">
        <div>
          <h2 className="font-semibold text-lg">Pick a section</h2>
          <p className="text-pencil text-sm">
            Seen along the line, back to the left. Pick one, give it a size, and it is the job's own.
          </p>
        </div>
        <span className="flex items-baseline gap-5">
          <NewPolygon />
          <Words onClick={() => show(drawing)}>Back to the drawing</Words>
        </span>
      </div>
      <div className="flex items-center gap-5 px-6 pb-2">
        <span className="w-[340px]">
          <Choice<Which>
            label="Which library"
            value={which}
            ways={[
              ["starting", "Starting library"],
              ["shop", "The shop's own"],
              ...(supplier?.there ? [["supplier", "Supplier"] as [Which, string]] : []),
            ]}
            choose={(way) => {
              setWhich(way);
              setPicked(null);
            }}
          />
        </span>
        <input
          aria-label="Find a section"
          className="h-8 w-52 rounded-[3px] border border-edge bg-paper px-2"
          placeholder="Words or sizes: tube 60 × 40"
          value={looked}
          autoComplete="off"
          spellCheck={false}
          onChange={(event) => setLooked(event.target.value)}
        />
        <Tick label="at one scale" checked={alike} set={setAlike} />
        <span className="text-pencil text-sm" role="status" data-looked={looked}>
          {found &&
            (looked.trim()
              ? `${found.length} of ${count(data?.length ?? 0, "section")}`
              : count(found.length, "section"))}
        </span>
      </div>
      <div ref={box} className="relative min-h-0 flex-1 overflow-auto px-6 pb-4">
        {error && (
          <p role="alert" className="text-red">
            {error.message} <Words onClick={() => void refetch()}>Try again</Words>
          </p>
        )}
        {late && (
          <p role="status" className="mb-2 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
            {late.supplier}'s catalogue {late.trouble}. Shown is what it said when it was last asked,{" "}
            {when(late.fetched_at)}; prices and days may have changed.{" "}
            <Words onClick={() => void refetch()}>Try again</Words>
          </p>
        )}
        {which === "shop" && <TakeIn />}
        {data?.length === 0 && which === "shop" && (
          <p className="max-w-prose py-6 text-pencil">
            Nothing is kept here yet. Open a section of a job on its desk and keep it in the shop's library, or take in
            a file of sections: then it is there for every job.
          </p>
        )}
        {found?.length === 0 && data?.length !== 0 && (
          <p className="py-6 text-pencil">
            None of the sections has all of that. <Words onClick={() => setLooked("")}>Show all of them</Words>
          </p>
        )}
        {found && (
          <Tiles entries={found} box={box} picked={picked?.key} pick={setPicked} largest={alike ? largest : null} />
        )}
      </div>
      {picked && <Sized key={picked.key} entry={picked} />}
    </div>
  );
}

/** A file of sections, taken into the shop's library. */
function TakeIn() {
  const { takeIn } = useShopActs();
  const [words, setOutcome] = useState<{ wrong: boolean; text: string } | null>(null);
  return (
    <p className="mb-2 flex items-baseline gap-4 text-sm">
      <label className="cursor-pointer text-chalk-deep underline decoration-chalk/30 underline-offset-[3px] hover:decoration-chalk">
        Import a file of sections
        <input
          type="file"
          accept=".json,.section.json"
          className="sr-only"
          onChange={async (event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (!file) return;
            try {
              const { ids } = await takeIn(file, "");
              setOutcome({ wrong: false, text: `${count(ids.length, "section")} imported from ${file.name}.` });
            } catch (error) {
              setOutcome({ wrong: true, text: problemOf(error).detail });
            }
          }}
        />
      </label>
      {words && (
        <span role={words.wrong ? "alert" : "status"} className={words.wrong ? "text-red" : "text-pencil"}>
          {words.text}
        </span>
      )}
    </p>
  );
}

function Sized({ entry }: { entry: Shelved }) {
  const { make } = useChanges();
  const { change: changeKept } = useShopActs();
  const { select } = usePart("select");
  const { values: size, put, settled } = useForm({ width: entry.section.width, height: entry.section.height });
  const [together, setTogether] = useState(true);
  const [wrong, setWrong] = useState("");
  const change = (side: "width" | "height") => async (mm: number) => {
    if (mm > 0) {
      put((now) => {
        const times = together ? mm / now[side] : 1;
        return { width: now.width * times, height: now.height * times, [side]: mm };
      });
      setWrong("");
    } else setWrong("A size must be more than zero.");
    return null;
  };
  const take = async () => {
    const now = await settled();
    if (!now) return;
    const { problem, made } = await make([
      { kind: "add_section", section: { ...entry.section, ...now }, shop: entry.shop },
    ]);
    if (problem) setWrong(problem.detail);
    else select(made);
  };
  return (
    <div className="border-rule border-t bg-bench px-6 py-2.5">
      <div className="flex items-center gap-6">
        <span className="font-medium">{entry.section.name}</span>
        <LengthField label="Width" mm={size.width} take={change("width")} />
        <LengthField label="Height" mm={size.height} take={change("height")} />
        <Tick label="scaled together" checked={together} set={setTogether} />
        <span className="flex-1" />
        {entry.shop && <Folder id={entry.shop.id} folder={entry.folder ?? ""} say={setWrong} />}
        {entry.shop && (
          <Words
            onClick={() =>
              void changeKept(entry.shop?.id ?? "", { removed: true }).catch((error) =>
                setWrong(problemOf(error).detail),
              )
            }
          >
            Remove it from the library
          </Words>
        )}
        <Button strong onClick={() => void take()}>
          Add to job
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-red text-sm">
          {wrong}
        </p>
      )}
    </div>
  );
}

/** The folder of the shop's library that a section stands in; another is typed. */
function Folder({ id, folder, say }: { id: string; folder: string; say: (wrong: string) => void }) {
  const { change } = useShopActs();
  const [typed, setTyped] = useState(folder);
  const move = () => {
    if (typed.trim() === folder) return;
    change(id, { folder: typed.trim() }).then(
      () => say(""),
      (error) => say(problemOf(error).detail),
    );
  };
  return (
    <label className="flex items-center gap-1.5 text-pencil text-sm">
      Folder
      <input
        className="h-7 w-32 rounded-[3px] border border-edge bg-paper px-2 text-ink"
        value={typed}
        placeholder="in no folder"
        autoComplete="off"
        maxLength={120}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={move}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
      />
    </label>
  );
}
