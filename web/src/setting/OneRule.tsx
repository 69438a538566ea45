/** A rule that is there: its name, its lines, what it made, its exceptions, and the way to remove it. */
import { type ReactNode, useState } from "react";
import type { Edit, Problem } from "../api/client";
import { Words } from "../ui/choices";
import { TextField } from "../ui/fields";
import { count } from "../ui/figures";
import { useChanges, useShown } from "../window/job";
import { usePart } from "../window/store";
import { lineById } from "../window/things";
import { type LinesBy, LinesOf } from "./LinesOfRule";

interface Rule {
  id: string;
  name: string;
  lines: LinesBy;
  without?: string[];
}

export function OneRule({
  rule,
  makes,
  made,
  close,
  children,
}: {
  rule: Rule;
  makes: "run" | "row";
  /** What it made, by the ids. */
  made: string[];
  close: () => void;
  /** What it says of them. */
  children: (set: (changes: object) => Promise<Problem | null>, look: (ids: string[]) => void) => ReactNode;
}) {
  const shown = useShown();
  const { edit } = useChanges();
  const { select } = usePart("select");
  const [wrong, setWrong] = useState("");
  const without = rule.without ?? [];
  const take = async (one: Edit) => {
    const problem = await edit([one]);
    setWrong(problem?.detail ?? "");
    return problem;
  };
  const kind = makes === "run" ? "set_rule" : "set_row_rule";
  const set = (changes: object) => take({ kind, rule: rule.id, changes } as Edit);
  const look = (ids: string[]) => {
    select(ids);
    close();
  };
  return (
    <section className="border-rule border-t py-2" aria-label={rule.name}>
      <div className="flex items-baseline justify-between gap-4">
        <TextField label="Name of the rule" value={rule.name} take={(name) => set({ name })} small />
        <span className="whitespace-nowrap text-pencil text-sm">{count(made.length, makes)}</span>
      </div>
      <div className="grid grid-cols-2 gap-x-8">
        <LinesOf value={rule.lines} choose={(lines) => void set({ lines })} />
        <div>{children(set, look)}</div>
      </div>
      <p className="mt-1 flex flex-wrap gap-x-4 text-sm">
        <Words onClick={() => look(made)}>Select its {makes}s</Words>
        {without.length > 0 && (
          <span className="text-pencil">
            without {without.map((id) => lineById(shown, id)?.name ?? id).join(", ")}{" "}
            <Words onClick={() => void set({ without: [] })}>Include them again</Words>
          </span>
        )}
        <Words onClick={() => void take({ kind: "remove", ids: [rule.id] } as Edit)}>
          Remove the rule, keep its {makes}s
        </Words>
      </p>
      {wrong && (
        <p role="alert" className="text-red text-sm">
          {wrong}
        </p>
      )}
    </section>
  );
}
