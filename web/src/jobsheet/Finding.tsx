/** Above the steps of a job that holds more than is seen at a glance: find by name, keep to some, put into groups. */
import { useId, useState } from "react";
import { Pick } from "../ui/choices";
import { count } from "../ui/figures";
import { useChanges, useShown } from "../window/job";
import { useWindow } from "../window/store";
import { type By, isAsking, type Only } from "./listing";
import { useSheet } from "./sheet";

const kinds: [Only, string][] = [
  ["all", "Everything"],
  ["faults", "With faults or warnings"],
  ["open", "Open lines"],
  ["closed", "Closed lines"],
  ["curved", "Lines with curves"],
  ["bare", "Lines that nothing stands on"],
];
const ways: [By, string][] = [
  ["none", "not grouped"],
  ["hand", "by my groups"],
  ["name", "by name"],
  ["layer", "by layer"],
  ["storey", "by storey"],
  ["section", "by section"],
];

export function Finding() {
  const { words, only, by, ask } = useSheet();
  const shown = useShown();
  const sections = (shown.job.sections ?? []).map((section): [Only, string] => [
    `section:${section.id}`,
    `Section: ${section.name}`,
  ]);
  return (
    <search className="block border-rule border-b px-4 pb-2">
      <div className="relative">
        <input
          aria-label="Find in the job"
          placeholder="Find"
          value={words}
          onChange={(event) => ask({ words: event.target.value })}
          onKeyDown={(event) => {
            if (event.key !== "Escape" || !isAsking({ words, only, by })) return;
            event.stopPropagation();
            ask({ words: "", only: "all" });
          }}
          className="h-7 w-full rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
        />
        {words && (
          <button
            type="button"
            aria-label="Clear the search"
            onClick={() => ask({ words: "" })}
            className="absolute top-0 right-0 h-7 w-7 cursor-pointer text-pencil hover:text-ink"
          >
            ×
          </button>
        )}
      </div>
      <div className="mt-1.5 flex gap-1.5">
        <Pick
          label="What is listed"
          value={only}
          ways={[...kinds, ...sections]}
          choose={(only) => ask({ only })}
          wide
        />
        <Pick label="Grouped" value={by} ways={ways} choose={(by) => ask({ by })} wide />
      </div>
      {by === "hand" && <GroupOfSelected />}
    </search>
  );
}

/** The group that what is selected is in, to be typed or chosen among those there are. */
function GroupOfSelected() {
  const { job } = useShown();
  const { edit } = useChanges();
  const selected = useWindow((state) => state.selected);
  const list = useId();
  const things: { id: string; group?: string }[] = [
    ...(job.lines ?? []),
    ...(job.sections ?? []),
    ...(job.runs ?? []),
    ...(job.rows ?? []),
    ...(job.pictures ?? []),
  ];
  const chosen = new Set(selected);
  const groups = new Set(things.filter((thing) => chosen.has(thing.id)).map((thing) => thing.group ?? ""));
  const known = [...new Set(things.map((thing) => thing.group ?? ""))].filter(Boolean).sort();
  const now = groups.size === 1 ? ([...groups][0] ?? "") : "";
  const [typed, setTyped] = useState<string | null>(null);
  if (!selected.length) return <p className="mt-1.5 text-pencil text-sm">Select what belongs in one group.</p>;
  const take = () => {
    const wanted = typed?.trim();
    setTyped(null);
    if (wanted !== undefined && (wanted !== now || groups.size > 1))
      void edit([{ kind: "set_group", ids: selected, group: wanted }]);
  };
  return (
    <label className="mt-1.5 flex items-center gap-2 text-sm">
      <span className="whitespace-nowrap text-pencil">
        Group of {selected.length === 1 ? "it" : count(selected.length, "thing")}
      </span>
      <input
        list={list}
        value={typed ?? now}
        placeholder={groups.size > 1 ? "several" : "none"}
        maxLength={120}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") setTyped(null);
        }}
        className="h-7 w-0 min-w-0 flex-1 rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
      />
      <datalist id={list}>
        {known.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </label>
  );
}
