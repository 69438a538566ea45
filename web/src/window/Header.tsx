import { useState } from "react";
import { Button, Pick } from "../ui/choices";
import { Wordmark } from "../ui/Wordmark";
import { useChanges, useShown, useUnits } from "./job";
import { usePart } from "./store";

type Way = "mm:1" | "mm:0.5" | "mm:0.1" | "m:1" | "ft-in:0.0625" | "ft-in:0.03125";
const ways: [Way, string][] = [
  ["mm:1", "mm"],
  ["mm:0.5", "mm to 0.5"],
  ["mm:0.1", "mm to 0.1"],
  ["m:1", "metres"],
  ["ft-in:0.0625", "feet-inches to 1/16"],
  ["ft-in:0.03125", "feet-inches to 1/32"],
];

export function Header() {
  const shown = useShown();
  const units = useUnits();
  const { edit, step } = useChanges();
  const { view, show, drawing, set } = usePart("view", "show", "drawing", "set");
  const changes = shown.revision - 1;
  return (
    <header className="col-span-full flex items-center gap-3 border-rule border-b px-4">
      <Wordmark />
      <span className="h-5 border-edge border-l" />
      <JobName />
      <button
        type="button"
        className="cursor-pointer text-pencil text-sm hover:text-ink"
        onClick={() => set({ dialog: "history" })}
      >
        {changes === 0 ? "no changes yet" : `saved · ${changes} ${changes === 1 ? "change" : "changes"}`}
      </button>
      <span className="flex-1" />
      <Step way="undo" words={shown.undo} act={() => void step("undo")} />
      <Step way="redo" words={shown.redo} act={() => void step("redo")} />
      <Pick
        label="Units"
        value={`${units.system}:${units.fineness}` as Way}
        various={units.system}
        ways={ways}
        choose={(way) => {
          const [system, fineness] = way.split(":") as ["mm" | "m" | "ft-in", string];
          void edit([{ kind: "set_units", units: { system, fineness: Number(fineness) } }]);
        }}
      />
      <Button onClick={() => set({ dialog: "keys" })}>Shortcuts</Button>
      <Button onClick={() => show(view === "cutting" ? drawing : "cutting")}>
        {view === "cutting" ? "Drawing" : "Cutting list"}
      </Button>
      <Button strong onClick={() => set({ dialog: "handover" })}>
        Hand over
      </Button>
    </header>
  );
}

function Step({ way, words, act }: { way: "undo" | "redo"; words: string | null | undefined; act: () => void }) {
  const name = way === "undo" ? "Undo" : "Redo";
  return (
    <button
      type="button"
      disabled={!words}
      onClick={act}
      title={words ? `${name}: ${words}` : `Nothing to ${way}`}
      className="cursor-pointer px-1 text-sm hover:text-chalk-deep disabled:cursor-default disabled:text-pencil/60"
    >
      {name}
    </button>
  );
}

function JobName() {
  const shown = useShown();
  const { edit } = useChanges();
  const [name, setName] = useState<string | null>(null);
  const commit = async () => {
    const wanted = name?.trim();
    if (wanted && wanted !== shown.job.name && (await edit([{ kind: "rename_job", name: wanted }]))) return;
    setName(null);
  };
  return (
    <input
      aria-label="Name of the job"
      className="field-sizing-content -mx-1 max-w-[360px] rounded-[3px] border border-transparent bg-transparent px-1 hover:border-edge focus:border-edge focus:bg-paper"
      value={name ?? shown.job.name}
      data-dirty={name !== null}
      maxLength={120}
      spellCheck={false}
      onChange={(event) => setName(event.target.value)}
      onBlur={() => void commit()}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setName(null);
      }}
    />
  );
}
