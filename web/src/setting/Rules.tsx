/** The rules by which runs and rows are made: along every line of a layer, a group or a name, those that come later too. */
import { useState } from "react";
import type { Edit, Placing } from "../api/client";
import { Button, Choice, Pick, Words } from "../ui/choices";
import { LengthField, Setting, useForm } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { useChanges, useShown } from "../window/job";
import { LinesOf, useLinesBy } from "./LinesOfRule";
import { OneRule } from "./OneRule";
import { NewRowRule, RowRule } from "./RowRules";

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
          <RunRule key={rule.id} rule={rule} close={close} />
        ))}
        {row_rules.map((rule) => (
          <RowRule key={rule.id} rule={rule} close={close} />
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

function RunRule({ rule, close }: { rule: Rule; close: () => void }) {
  const shown = useShown();
  const runs = (shown.job.runs ?? []).filter((run) => run.rule === rule.id).map((run) => run.id);
  const sizes = shown.job.sections?.find((one) => one.id === rule.section)?.range ?? [];
  return (
    <OneRule rule={rule} makes="run" made={runs} close={close}>
      {(set) => (
        <>
          <Setting label="Section">
            <Pick
              label="Section of the rule"
              value={rule.section}
              ways={(shown.job.sections ?? []).map((one): [string, string] => [one.id, one.name])}
              choose={(section) => void set({ section, size: null })}
            />
          </Setting>
          {sizes.length > 0 && (
            <Setting label="Size">
              <Pick
                label="Size of the rule"
                value={rule.size ?? ""}
                ways={[["", "as it stands"], ...sizes.map((size): [string, string] => [size.name, size.name])]}
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
        </>
      )}
    </OneRule>
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
