/** Set items out along a line: which line, what, how far apart. */
import { useState } from "react";
import type { Edit } from "../../api/client";
import { Button, Pick } from "../../ui/choices";
import { CountField, LengthField, Setting, useForm } from "../../ui/fields";
import { Modal } from "../../ui/Modal";
import { useChanges, useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { lineOf } from "../../window/things";
import { type Item, itemKindOf, itemWays } from "./itemKinds";
import { ruleOf, rules } from "./rules";

export function NewRow({ close }: { close: () => void }) {
  const shown = useShown();
  const { make: send } = useChanges();
  const { selected, select } = usePart("selected", "select");
  const lines = shown.job.lines ?? [];
  const [line, setLine] = useState<string | null>(lineOf(shown, selected[0])?.id ?? lines[0]?.id ?? null);
  const [kind, setKind] = useState<Item["kind"]>("post");
  const [rule, setRule] = useState(rules[0]?.kind ?? "equal-bays");
  const { field, label, counts } = ruleOf(rule);
  const { values, put, settled } = useForm({ apart: 1800, number: 5 });
  const [wrong, setWrong] = useState("");
  const make = async () => {
    const now = await settled();
    if (!now) return;
    const { many, usual } = itemKindOf(kind);
    const what = { name: many, item: { kind, height: usual.height }, material: usual.material };
    const spacing = {
      rule: { kind: rule, [field]: counts ? now.number : now.apart },
    };
    const { problem } = await send([{ kind: "add_row", row: { ...what, line, spacing } } as Edit], (made) => {
      close();
      select(made);
    });
    if (problem?.code === "confirm-many") close();
    else if (problem) setWrong(problem.detail);
  };
  return (
    <Modal title="Set items out along a line" close={close}>
      {lines.length === 0 ? (
        <p className="mb-4">There is no line in the job yet: draw one, or import a drawing.</p>
      ) : (
        <>
          <Setting label="Line">
            <Pick
              label="Line"
              value={line}
              ways={lines.map((one): [string, string] => [one.id, one.name])}
              choose={setLine}
            />
          </Setting>
          <p className="mt-2 mb-1 text-pencil text-sm">What is set out? Its size is on its card afterwards.</p>
          <Pick label="What" wide value={kind} ways={itemWays} choose={setKind} />
          <p className="mt-3 mb-1 text-pencil text-sm">How far apart?</p>
          <Pick
            label="Spacing rule"
            wide
            value={rule}
            ways={rules.map((one): [typeof one.kind, string] => [one.kind, one.words])}
            choose={setRule}
          />
          <div className="mt-1.5">
            {counts ? (
              <CountField
                label={label}
                value={values.number}
                take={async (number) => {
                  put({ number });
                  return null;
                }}
              />
            ) : (
              <LengthField
                label={label}
                mm={values.apart}
                take={async (mm) => {
                  put({ apart: mm });
                  return null;
                }}
              />
            )}
          </div>
        </>
      )}
      {wrong && (
        <p role="alert" className="mt-2 text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong disabled={!line} onClick={() => void make()}>
          Set them out
        </Button>
      </div>
    </Modal>
  );
}
