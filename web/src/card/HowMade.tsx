/** How a line is made, where it follows something: its walk, the line it lies beside, the two it lies between. */
import { useState } from "react";
import type { Edit, Line } from "../api/client";
import { Choice, Words } from "../ui/choices";
import { LengthField, Question } from "../ui/fields";
import { useChanges, useShown } from "../window/job";
import { useWindow } from "../window/store";
import { lineById } from "../window/things";

export function HowMade({ line }: { line: Line }) {
  const shown = useShown();
  const { edit } = useChanges();
  const select = useWindow((state) => state.select);
  const { made } = line;
  if (!made) return null;
  const set = (next: object | null) => edit([{ kind: "set_made", line: line.id, made: next } as Edit]);
  const named = (id: string) => <Words onClick={() => select([id])}>{lineById(shown, id)?.name ?? id}</Words>;
  return (
    <>
      <Question>How is it made?</Question>
      {made.kind === "walk" && <WalkField text={made.text} take={(text) => set({ ...made, text, system: null })} />}
      {made.kind === "offset" && (
        <>
          <p className="text-sm">It stays beside {named(made.line)}.</p>
          <LengthField
            label="Distance"
            mm={Math.abs(made.distance)}
            take={(mm) => set({ ...made, distance: Math.sign(made.distance || 1) * mm })}
          />
          <Choice
            label="Side"
            value={made.distance < 0 ? "left" : "right"}
            ways={[
              ["left", "Left of travel"],
              ["right", "Right of travel"],
            ]}
            choose={(side) =>
              void set({ ...made, distance: side === "left" ? -Math.abs(made.distance) : Math.abs(made.distance) })
            }
          />
        </>
      )}
      {made.kind === "midway" && (
        <p className="text-sm">
          It stays midway between {named(made.lines[0])} and {named(made.lines[1])}.
        </p>
      )}
      <p className="mt-1 text-pencil text-sm">
        Changed by hand it follows no more. <Words onClick={() => void set(null)}>Let it go now</Words>
      </p>
    </>
  );
}

function WalkField({ text, take }: { text: string; take: (text: string) => Promise<unknown> }) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const commit = async () => {
    if (typed === null || typed === text) return;
    const problem = (await take(typed)) as { detail: string } | null;
    setWrong(problem?.detail ?? "");
    if (!problem) setTyped(null);
  };
  return (
    <>
      <textarea
        aria-label="Walk"
        className="figure w-full rounded-[3px] border border-edge bg-paper px-2 py-1 text-sm"
        rows={Math.min(8, Math.max(2, Math.ceil(text.length / 30)))}
        value={typed ?? text}
        data-dirty={typed !== null}
        spellCheck={false}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => void commit()}
        onKeyDown={(event) => {
          if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) void commit();
          if (event.key === "Escape") {
            event.stopPropagation();
            setTyped(null);
            setWrong("");
          }
        }}
      />
      {wrong && (
        <p role="alert" className="text-red text-xs">
          {wrong}
        </p>
      )}
    </>
  );
}
