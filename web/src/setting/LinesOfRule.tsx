/** Which lines a rule is for: in words, and chosen. */
import { useState } from "react";
import { Choice } from "../ui/choices";
import { useShown } from "../window/job";

type Job = ReturnType<typeof useShown>["job"];
export type LinesBy = NonNullable<Job["rules"]>[number]["lines"];
type By = LinesBy["kind"];

const BY: [By, string][] = [
  ["layer", "Layer"],
  ["group", "Group"],
  ["name", "Name"],
];

/** What lines a rule is for, in words. */
export const ruleWords = (rule: { lines: LinesBy }) =>
  rule.lines.kind === "name"
    ? `every line with “${rule.lines.words}” in its name`
    : `every line of ${rule.lines.kind} ${rule.lines.words}`;

/** Which lines: by layer, group or name, chosen from those that there are or typed. */
export function LinesOf({ value, choose }: { value: LinesBy; choose: (lines: LinesBy) => void }) {
  const shown = useShown();
  const [text, setText] = useState<string | null>(null);
  const lines = shown.job.lines ?? [];
  const known = [
    ...new Set(
      lines.map((line) => (value.kind === "layer" ? line.source?.layer : value.kind === "group" ? line.group : "")),
    ),
  ].filter((one): one is string => Boolean(one));
  const list = `lines-by-${value.kind}`;
  const commit = () => {
    if (text?.trim() && text.trim() !== value.words) choose({ ...value, words: text.trim() });
    setText(null);
  };
  return (
    <div>
      <Choice label="Lines by" value={value.kind} ways={BY} choose={(kind) => choose({ ...value, kind })} plain />
      <input
        aria-label={`Lines of which ${value.kind}`}
        className="mt-1.5 h-7 w-full rounded-[3px] border border-edge bg-paper px-2"
        list={list}
        value={text ?? value.words}
        placeholder={value.kind === "name" ? "words in their names" : `the ${value.kind}`}
        spellCheck={false}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <datalist id={list}>
        {known.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      {known.length > 0 && <p className="mt-0.5 truncate text-pencil text-xs">There are: {known.join(", ")}</p>}
    </div>
  );
}

/** Which lines a new rule is for, at first those of a group or a layer that there is. */
export function useLinesBy(): [LinesBy, (lines: LinesBy) => void] {
  const lines = useShown().job.lines ?? [];
  const group = lines.find((line) => line.group)?.group;
  const layer = lines.find((line) => line.source?.layer)?.source?.layer;
  return useState<LinesBy>(
    group ? { kind: "group", words: group } : layer ? { kind: "layer", words: layer } : { kind: "name", words: "" },
  );
}
