/** What the cutting list is kept to, and how it is grouped and sorted; it stays so while the window is open. */
import { create } from "zustand";
import { Pick } from "../ui/choices";
import { useShown } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { Columns } from "./Columns";
import type { Grouped, Wanted } from "./ordering";
import { SawSettings } from "./SawSettings";

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

export interface Sums {
  pieces: number;
  bar: number;
  line: number;
  /** Weight, kg, and painted area, mm². */
  weight: number;
  painted: number;
}

export function sumOf(parts: Sums[]): Sums {
  const none = { pieces: 0, bar: 0, line: 0, weight: 0, painted: 0 };
  return parts.reduce(
    (sum, part) => ({
      pieces: sum.pieces + part.pieces,
      bar: sum.bar + part.bar,
      line: sum.line + part.line,
      weight: sum.weight + part.weight,
      painted: sum.painted + part.painted,
    }),
    none,
  );
}

const ways: [Grouped, string][] = [
  ["run", "by run"],
  ["section", "by section"],
  ["place", "by place"],
  ["none", "all together"],
];

export function CuttingFilter() {
  const { words, only, by, want } = useWanted();
  const shown = useShown();
  const chosen = useWindow((state) => state.selected.length > 0);
  const { cardAsked, set } = usePart("cardAsked", "set");
  const sections = (shown.job.sections ?? []).map((section): [Wanted["only"], string] => [
    `section:${section.id}`,
    section.name,
  ]);
  return (
    <search className="flex min-w-0 flex-1 justify-end gap-2">
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
        className="h-7 w-44 min-w-24 shrink rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
      />
      <Pick
        label="What is in the cutting list"
        value={only}
        ways={[["all", "All sections"], ["faults", "With faults or warnings"], ...sections]}
        choose={(only) => want({ only })}
      />
      <Pick label="The cutting list is set out" value={by} ways={ways} choose={(by) => want({ by })} />
      <SawSettings />
      <Columns />
      {chosen && (
        <button
          type="button"
          aria-pressed={cardAsked}
          title="The card of what is selected"
          onClick={() => set({ cardAsked: !cardAsked })}
          className={`h-7 shrink-0 cursor-pointer rounded-[3px] border px-2 ${cardAsked ? "border-ink bg-ink text-paper" : "border-edge bg-paper hover:border-pencil"}`}
        >
          Card
        </button>
      )}
    </search>
  );
}
