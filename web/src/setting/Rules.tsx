/** The rules by which runs and rows are made: along every line of a layer, a group or a name, those that come later too. */
import { useState } from "react";
import type { Edit, Placing } from "../api/client";
import { Button, Choice, Pick, Words } from "../ui/choices";
import { LengthField, Setting, TextField, useForm } from "../ui/fields";
import { count } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { useChanges, useShown } from "../window/job";
import { usePart } from "../window/store";
import { lineById } from "../window/things";
import { LinesOf, useLinesBy } from "./LinesOfRule";
import { NewRowRule, OneRowRule } from "./RowRules";

type Rule = NonNullable<ReturnType<typeof useShown>["job"]["rules"]>[number];
export function Rules({ close }: { close: () => void }) {
  const shown = useShown();
  const { rules = [], row_rules = [], sections = [], rows = [] } = shown.job;
  const [adding, setAdding] = useState(rules.length + row_rules.length === 0);
  const [makes, setMakes] = useState<"run" | "row">(sections.length ? "run" : "row");
  const done = () => setAdding(false);
  return (
    <Modal title="By rule" close={close} wide>
      <p className="mb-3 text-pencil text-sm">
        A rule runs a section, or sets items out as in a row that is there, along every line of a layer, of a group or
        of a name. Lines that come later get theirs; a run or row that you change or remove by hand is an exception from
        then on.
      </p>
      <div className="max-h-[46vh] overflow-y-auto">
        {rules.map((rule) => (
          <OneRule key={rule.id} rule={rule} close={close} />
        ))}
        {row_rules.map((rule) => (
          <OneRowRule key={rule.id} rule={rule} close={close} />
        ))}
      </div>
      {adding ? (
        <div className="border-rule border-t pt-2">
          {sections.length > 0 && rows.length > 0 && (
            <Choice label="What the new rule makes" value={makes} ways={MAKES} choose={setMakes} plain />
          )}
          {makes === "run" ? <NewRule done={done} /> : <NewRowRule done={done} />}
        </div>
      ) : (
        <p className="mt-2">
          <Words onClick={() => setAdding(true)}>Add a rule</Words>
        </p>
      )}
      <div className="mt-4 flex justify-end">
        <Button onClick={close}>Close</Button>
      </div>
    </Modal>
  );
}

function OneRule({ rule, close }: { rule: Rule; close: () => void }) {
  const shown = useShown();
  const { edit } = useChanges();
  const { select } = usePart("select");
  const [wrong, setWrong] = useState("");
  const runs = (shown.job.runs ?? []).filter((run) => run.rule === rule.id);
  const without = rule.without ?? [];
  const set = async (changes: object) => {
    const problem = await edit([{ kind: "set_rule", rule: rule.id, changes }]);
    setWrong(problem?.detail ?? "");
    return problem;
  };
  const rows = shown.job.sections?.find((one) => one.id === rule.section)?.range ?? [];
  return (
    <section className="border-rule border-t py-2" aria-label={rule.name}>
      <div className="flex items-baseline justify-between gap-4">
        <TextField label="Name of the rule" value={rule.name} take={(name) => set({ name })} small />
        <span className="whitespace-nowrap text-pencil text-sm">{count(runs.length, "run")}</span>
      </div>
      <div className="grid grid-cols-2 gap-x-8">
        <LinesOf value={rule.lines} choose={(lines) => void set({ lines })} />
        <div>
          <Setting label="Section">
            <Pick
              label="Section of the rule"
              value={rule.section}
              ways={(shown.job.sections ?? []).map((one): [string, string] => [one.id, one.name])}
              choose={(section) => void set({ section, size: null })}
            />
          </Setting>
          {rows.length > 0 && (
            <Setting label="Size">
              <Pick
                label="Size of the rule"
                value={rule.size ?? ""}
                ways={[["", "as it stands"], ...rows.map((row): [string, string] => [row.name, row.name])]}
                choose={(size) => void set({ size: size || null })}
              />
            </Setting>
          )}
          <LengthField label="Lift" mm={rule.placing?.lift ?? 0} take={(lift) => set({ placing: { lift } })} />
          <Setting label="Faces">
            <Pick
              label="Faces"
              value={rule.placing?.facing?.kind ?? "right"}
              ways={FACING}
              choose={(kind) => void set({ placing: { facing: { kind } } })}
            />
          </Setting>
        </div>
      </div>
      <p className="mt-1 flex flex-wrap gap-x-4 text-sm">
        <Words
          onClick={() => {
            select(runs.map((run) => run.id));
            close();
          }}
        >
          Select its runs
        </Words>
        {without.length > 0 && (
          <span className="text-pencil">
            without {without.map((id) => lineById(shown, id)?.name ?? id).join(", ")}{" "}
            <Words onClick={() => void set({ without: [] })}>Include them again</Words>
          </span>
        )}
        <Words onClick={() => void edit([{ kind: "remove", ids: [rule.id] } as Edit])}>
          Remove the rule, keep its runs
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

const MAKES: ["run" | "row", string][] = [
  ["run", "Runs of a section"],
  ["row", "Rows of items"],
];

const FACING: ["left" | "right" | "room" | "wall" | "toward", string][] = [
  ["right", "right of travel"],
  ["left", "left of travel"],
  ["room", "into the room"],
  ["wall", "away from the wall"],
];

function NewRule({ done }: { done: () => void }) {
  const shown = useShown();
  const { edit } = useChanges();
  const sections = shown.job.sections ?? [];
  const [lines, setLines] = useLinesBy();
  const [section, setSection] = useState(sections.at(-1)?.id ?? null);
  const [facing, setFacing] = useState<(typeof FACING)[number][0]>("room");
  const { values, put, settled } = useForm({ lift: 0 });
  const [wrong, setWrong] = useState("");
  if (!sections.length) return <p className="text-pencil">There is no section in the job yet: pick one first.</p>;
  const add = async () => {
    const now = await settled();
    if (!now) return;
    if (!lines.words) return setWrong("Say which lines: a layer, a group, or words in their names.");
    const placing = { facing: { kind: facing }, lift: now.lift } as Placing;
    const name = sections.find((one) => one.id === section)?.name ?? "Rule";
    const problem = await edit([{ kind: "add_rule", rule: { name, lines, section, placing } } as Edit]);
    if (problem) setWrong(problem.detail);
    else done();
  };
  return (
    <section className="py-2" aria-label="New rule">
      <div className="grid grid-cols-2 gap-x-8">
        <LinesOf value={lines} choose={setLines} />
        <div>
          <Setting label="Section">
            <Pick
              label="Section of the new rule"
              value={section}
              ways={sections.map((one): [string, string] => [one.id, one.name])}
              choose={setSection}
            />
          </Setting>
          <LengthField
            label="Lift"
            mm={values.lift}
            take={async (lift) => {
              put({ lift });
              return null;
            }}
          />
          <Setting label="Faces">
            <Pick label="New rule faces" value={facing} ways={FACING} choose={setFacing} />
          </Setting>
        </div>
      </div>
      {wrong && (
        <p role="alert" className="text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-2 flex justify-end">
        <Button strong onClick={() => void add()}>
          Run it along them
        </Button>
      </div>
    </section>
  );
}
