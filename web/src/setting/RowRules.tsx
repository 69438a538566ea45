/** The rules by which rows are made: items along every line of some as they are along one. */
import { useState } from "react";
import type { Edit } from "../api/client";
import { Button, Pick, Words } from "../ui/choices";
import { Setting } from "../ui/fields";
import { useChanges, useShown } from "../window/job";
import { usePart } from "../window/store";
import { rowById } from "../window/things";
import { LinesOf, ruleWords, useLinesBy } from "./LinesOfRule";
import { OneRule } from "./OneRule";

type Rule = NonNullable<ReturnType<typeof useShown>["job"]["row_rules"]>[number];

/** The rows that others can be like: those that no rule made. */
function useOwnRows(): [string, string][] {
  return (useShown().job.rows ?? []).filter((row) => !row.rule).map((row) => [row.id, row.name]);
}

export function RowRule({ rule, close }: { rule: Rule; close: () => void }) {
  const shown = useShown();
  const rows = (shown.job.rows ?? []).filter((row) => row.rule === rule.id).map((row) => row.id);
  const ways = useOwnRows();
  return (
    <OneRule rule={rule} makes="row" made={rows} close={close}>
      {(set, look) => (
        <>
          <Setting label="Items as in">
            <Pick label="Items as in the row" value={rule.row} ways={ways} choose={(row) => void set({ row })} />
          </Setting>
          <p className="text-pencil text-sm">
            What is changed of{" "}
            <Words onClick={() => look([rule.row])}>{rowById(shown, rule.row)?.name ?? rule.row}</Words> changes them
            all.
          </p>
        </>
      )}
    </OneRule>
  );
}

export function NewRowRule({ done }: { done: () => void }) {
  const shown = useShown();
  const { edit } = useChanges();
  const { selected } = usePart("selected");
  const ways = useOwnRows();
  const [lines, setLines] = useLinesBy();
  const [row, setRow] = useState(ways.find(([id]) => selected.includes(id))?.[0] ?? ways.at(-1)?.[0] ?? null);
  const [wrong, setWrong] = useState("");
  if (!row) return <p className="text-pencil">There is no row in the job yet: set items out along one line first.</p>;
  const add = async () => {
    if (!lines.words) return setWrong("Say which lines: a layer, a group, or words in their names.");
    const name = rowById(shown, row)?.name ?? "Rule";
    const problem = await edit([{ kind: "add_row_rule", rule: { name, lines, row } } as Edit]);
    if (problem) setWrong(problem.detail);
    else done();
  };
  return (
    <section className="py-2" aria-label="New rule">
      <div className="grid grid-cols-2 gap-x-8">
        <LinesOf value={lines} choose={setLines} />
        <Setting label="Items as in">
          <Pick label="Items as in the row" value={row} ways={ways} choose={setRow} />
        </Setting>
      </div>
      {wrong && (
        <p role="alert" className="text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-2 flex justify-end">
        <Button strong onClick={() => void add()}>
          Set items out along them
        </Button>
      </div>
    </section>
  );
}

/** Whether a row is made by a rule, or others are made like it, and the way to the rule. */
export function RowsRule({ id, rule: made }: { id: string; rule: string | null | undefined }) {
  const rules = useShown().job.row_rules ?? [];
  const { set } = usePart("set");
  const rule = rules.find((one) => one.id === made);
  const like = rules.some((one) => one.row === id);
  if (!rule && !like) return null;
  return (
    <p className="mt-1 border-chalk border-l-[3px] bg-chalk-wash px-3 py-1.5 text-sm">
      {rule
        ? `By rule: ${ruleWords(rule)}. What is changed here makes it an exception. `
        : "Rows by rule are like this one, and follow it. "}
      <Words onClick={() => set({ dialog: "rules" })}>The rule</Words>
    </p>
  );
}
