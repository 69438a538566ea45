/** What the cutting list is kept to, and how it is grouped and sorted; it stays so while the window is open. */
import { create } from "zustand";
import { Pick } from "../ui/choices";
import { useChanges, useShown } from "../window/job";
import { Allowances } from "./Allowances";
import { Columns } from "./Columns";
import type { Grouped, Part, Wanted } from "./ordering";

interface WantedState extends Wanted {
  want: (part: Partial<Wanted>) => void;
}

export const useWanted = create<WantedState>((set) => ({
  words: "",
  only: "all",
  by: "run",
  sorted: { by: "tag", back: false },
  want: (part) => set(part),
}));

export function isKept({ words, only }: { words: string; only: Wanted["only"] }): boolean {
  return words.trim() !== "" || only !== "all";
}

export function sumOf(parts: Part[]): { pieces: number; bar: number; line: number } {
  return parts.reduce(
    (sum, part) => ({ pieces: sum.pieces + part.pieces, bar: sum.bar + part.bar, line: sum.line + part.line }),
    { pieces: 0, bar: 0, line: 0 },
  );
}

const ways: [Grouped, string][] = [
  ["run", "by run"],
  ["section", "by section"],
  ["place", "by place"],
  ["none", "all together"],
];

const STEPS: [string, string][] = [
  ["0", "angles as they are"],
  ["0.1", "steps of 0.1°"],
  ["0.25", "steps of 0.25°"],
  ["0.5", "steps of 0.5°"],
  ["1", "steps of 1°"],
];
const STOPS: ["long" | "short" | "fence", string][] = [
  ["long", "stop at the long point"],
  ["short", "stop at the short point"],
  ["fence", "stop along the fence"],
];

export function CuttingFilter() {
  const { words, only, by, want } = useWanted();
  const shown = useShown();
  const { edit } = useChanges();
  const saw = shown.job.saw ?? {};
  const set = (changes: object) => void edit([{ kind: "set_saw", changes }]);
  const sections = (shown.job.sections ?? []).map((section): [Wanted["only"], string] => [
    `section:${section.id}`,
    section.name,
  ]);
  return (
    <search className="flex flex-wrap justify-end gap-2">
      <input
        aria-label="Find in the cutting list"
        placeholder="Find a tag, run or section"
        value={words}
        onChange={(event) => want({ words: event.target.value })}
        onKeyDown={(event) => {
          if (event.key !== "Escape" || !words) return;
          event.stopPropagation();
          want({ words: "" });
        }}
        className="h-7 w-44 rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
      />
      <Pick
        label="What is in the cutting list"
        value={only}
        ways={[["all", "All sections"], ["faults", "With faults or warnings"], ...sections]}
        choose={(only) => want({ only })}
      />
      <Pick label="The cutting list is set out" value={by} ways={ways} choose={(by) => want({ by })} />
      <Pick
        label="Steps of the saw"
        value={String(saw.step ?? 0)}
        ways={
          STEPS.some(([step]) => step === String(saw.step ?? 0))
            ? STEPS
            : [...STEPS, [String(saw.step), `steps of ${saw.step}°`]]
        }
        choose={(step) => set({ step: Number(step) })}
      />
      <Pick label="The stop measures" value={saw.stop ?? "long"} ways={STOPS} choose={(stop) => set({ stop })} />
      {shown.job.sections?.some((section) => section.bed?.kind === "edge") && (
        <Pick
          label="Cornices are held"
          value={saw.sprung ? "sprung" : "lying"}
          ways={[
            ["lying", "cornices on the back"],
            ["sprung", "cornices against the fence"],
          ]}
          choose={(way) => set({ sprung: way === "sprung" })}
        />
      )}
      <Allowances />
      <Columns />
    </search>
  );
}
