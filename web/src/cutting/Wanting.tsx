/** What the cutting list is kept to, and how it is grouped and sorted; it stays so while the window is open. */
import { create } from "zustand";
import { Pick } from "../ui/choices";
import { useShown } from "../window/job";
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
  ["none", "all together"],
];

export function Wanting() {
  const { words, only, by, want } = useWanted();
  const sections = (useShown().job.sections ?? []).map((section): [Wanted["only"], string] => [
    `section:${section.id}`,
    section.name,
  ]);
  return (
    <search className="flex gap-2">
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
    </search>
  );
}
