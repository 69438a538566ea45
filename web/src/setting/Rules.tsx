/** The rules by which runs are made: a section along every line of a layer, a group or a name, those that come later too. */
import { useState } from "react";
import type { Edit, Placing } from "../api/client";
import { Button, Choice, Pick, Words } from "../ui/choices";
import { LengthField, Setting, TextField, useForm } from "../ui/fields";
import { count } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { useChanges, useShown } from "../window/job";
import { usePart } from "../window/store";
import { lineById } from "../window/things";

type Rule = NonNullable<ReturnType<typeof useShown>["job"]["rules"]>[number];
type By = Rule["lines"]["kind"];

const BY: [By, string][] = [
  ["layer", "Layer"],
  ["group", "Group"],
  ["name", "Name"],
];

/** What lines a rule is for, in words. */
export const ruleWords = (rule: Rule) =>
  rule.lines.kind === "name"
    ? `every line with “${rule.lines.words}” in its name`
    : `every line of ${rule.lines.kind} ${rule.lines.words}`;

export function Rules({ close }: { close: () => void }) {
  const shown = useShown();
  const rules = shown.job.rules ?? [];
  const [adding, setAdding] = useState(rules.length === 0);
  return (
    <Modal title="Runs by rule" close={close} wide>
      <p className="mb-3 text-pencil text-sm">
        A rule runs a section along every line of a layer, of a group or of a name. Lines that come later get their run;
        a run that you change or remove by hand is an exception from then on.
      </p>
      <div className="max-h-[46vh] overflow-y-auto">
        {rules.map((rule) => (
          <OneRule key={rule.id} rule={rule} close={close} />
        ))}
      </div>
      {adding ? (
        <NewRule done={() => setAdding(false)} />
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

const FACING: ["left" | "right" | "room" | "wall" | "toward", string][] = [
  ["right", "right of travel"],
  ["left", "left of travel"],
  ["room", "into the room"],
  ["wall", "away from the wall"],
];

/** Which lines: by layer, group or name, chosen from those that there are or typed. */
function LinesOf({ value, choose }: { value: Rule["lines"]; choose: (lines: Rule["lines"]) => void }) {
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

function NewRule({ done }: { done: () => void }) {
  const shown = useShown();
  const { edit } = useChanges();
  const sections = shown.job.sections ?? [];
  const group = (shown.job.lines ?? []).find((line) => line.group)?.group ?? "";
  const layer = (shown.job.lines ?? []).find((line) => line.source?.layer)?.source?.layer ?? "";
  const [lines, setLines] = useState<Rule["lines"]>(
    group ? { kind: "group", words: group } : layer ? { kind: "layer", words: layer } : { kind: "name", words: "" },
  );
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
    <section className="border-rule border-t py-2" aria-label="New rule">
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
