/** Set items out along a line: which line, what, how far apart. */
import { useState } from "react";
import type { Edit } from "../../api/client";
import { Choice, Pick, Words } from "../../ui/choices";
import { CountField, LengthField, Setting, useForm } from "../../ui/fields";
import { count } from "../../ui/figures";
import { Modal, ModalFoot } from "../../ui/Modal";
import { useChanges, useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { lineOf } from "../../window/things";
import { BringItem, type BroughtItem } from "./BringItem";
import { type Item, itemKindOf, itemWays, saidOf } from "./itemKinds";
import { ruleOf, rules } from "./rules";

/** The ways of filling the ground within a line, by the distance that is typed. */
const FILLS = {
  chance: { words: "By chance, no nearer than", filling: (apart: number) => ({ kind: "chance", apart }) },
  square: {
    words: "On a square grid",
    filling: (apart: number) => ({ kind: "grid", along: apart, between: apart }),
  },
  staggered: {
    words: "On a staggered grid",
    // Every one is as far from its six neighbours.
    filling: (apart: number) => ({
      kind: "grid",
      along: apart,
      between: (apart * Math.sqrt(3)) / 2,
      staggered: true,
    }),
  },
};

export function NewRow({ close }: { close: () => void }) {
  const shown = useShown();
  const { make: send } = useChanges();
  const { selected, select } = usePart("selected", "select");
  const lines = shown.job.lines ?? [];
  const [line, setLine] = useState<string | null>(lineOf(shown, selected[0])?.id ?? lines[0]?.id ?? null);
  // Each of several lines that are selected gets a row of its own, in one step.
  const chosenLines = lines.filter((one) => selected.includes(one.id));
  const several = chosenLines.length > 1 ? chosenLines : null;
  const typicals = shown.job.typicals ?? [];
  const [brought, setBrought] = useState<BroughtItem | null>(null);
  const [bringing, setBringing] = useState(false);
  const [typical, setTypical] = useState<string | null>(null);
  const [kind, setKind] = useState<Item["kind"]>("post");
  const [rule, setRule] = useState(rules[0]?.kind ?? "equal-bays");
  const closed = (several ?? lines.filter((one) => one.id === line)).every((one) => one.closed);
  const [where, setWhere] = useState<"along" | "within">("along");
  const [fill, setFill] = useState<keyof typeof FILLS>("chance");
  const within = closed && where === "within";
  const { field, label, counts } = ruleOf(rule);
  const { values, put, settled } = useForm({ apart: 1800, number: 5 });
  const [wrong, setWrong] = useState("");
  const make = async () => {
    const now = await settled();
    if (!now) return;
    if (kind === "brought" && !brought) {
      setWrong("Choose the file of the item first.");
      return;
    }
    const { many, usual } = itemKindOf(kind);
    const chosen = typicals.filter((one) => one.id === typical);
    const called =
      kind === "typical" ? (chosen[0] ?? typicals[0])?.name : kind === "brought" ? brought?.called : undefined;
    const what = {
      name: called ?? many,
      item:
        kind === "brought"
          ? brought
          : { kind, height: usual.height, ...saidOf(kind, chosen.length ? chosen : typicals) },
      material: usual.material,
      // What is drawn across stands across the line.
      ...(kind === "typical" ? { turn: { kind: "line", by: 90 } } : {}),
    };
    const spacing = {
      rule: { kind: rule, [field]: counts ? now.number : now.apart },
    };
    const filling = within ? FILLS[fill].filling(now.apart) : null;
    const rows = several
      ? several.map((one) => ({ ...what, name: `${what.name}, ${one.name}`.slice(0, 120), line: one.id }))
      : [{ ...what, line }];
    const edits = rows.map((row) => ({ kind: "add_row", row: { ...row, spacing, filling } }) as Edit);
    const { problem } = await send(edits, (made) => {
      close();
      select(made);
    });
    if (problem?.code === "confirm-many") close();
    else if (problem) setWrong(problem.detail);
  };
  return (
    <Modal title="Set items out" close={close}>
      {lines.length === 0 ? (
        <p className="mb-4">There is no line in the job yet: draw one, or import a drawing.</p>
      ) : (
        <>
          {several ? (
            <p className="text-sm">
              Along each of {count(several.length, "line")}: {several.map((one) => one.name).join(", ")}
            </p>
          ) : (
            <Setting label="Line">
              <Pick
                label="Line"
                value={line}
                ways={lines.map((one): [string, string] => [one.id, one.name])}
                choose={setLine}
              />
            </Setting>
          )}
          {closed && (
            <div className="mt-1.5">
              <Choice
                label="Where"
                value={where}
                ways={[
                  ["along", "Along the line"],
                  ["within", "On the ground within it"],
                ]}
                choose={setWhere}
              />
            </div>
          )}
          <p className="mt-2 mb-1 text-pencil text-sm">What is set out? Its size is on its card afterwards.</p>
          <Pick label="What" wide value={kind} ways={itemWays(typicals.length > 0 && !several)} choose={setKind} />
          {kind === "brought" && (
            <p className="mt-1.5">
              {brought ? `${brought.called} ` : ""}
              <Words onClick={() => setBringing(true)}>{brought ? "Bring in another" : "Choose the file"}</Words>
            </p>
          )}
          {bringing && (
            <BringItem
              close={() => setBringing(false)}
              take={async (item) => {
                setBrought(item);
                setBringing(false);
                return null;
              }}
            />
          )}
          {kind === "typical" && (
            <div className="mt-1.5">
              <Pick
                label="Typical"
                wide
                value={typical ?? typicals[0]?.id ?? null}
                ways={typicals.map((one): [string, string] => [one.id, one.name])}
                choose={setTypical}
              />
            </div>
          )}
          <p className="mt-3 mb-1 text-pencil text-sm">How far apart?</p>
          {within ? (
            <Pick
              label="How the ground is filled"
              wide
              value={fill}
              ways={Object.entries(FILLS).map(([key, one]): [keyof typeof FILLS, string] => [
                key as keyof typeof FILLS,
                one.words,
              ])}
              choose={setFill}
            />
          ) : (
            <Pick
              label="Spacing rule"
              wide
              value={rule}
              ways={rules.map((one): [typeof one.kind, string] => [one.kind, one.words])}
              choose={setRule}
            />
          )}
          <div className="mt-1.5">
            {counts && !within ? (
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
                label={within ? "Apart" : label}
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
      <ModalFoot {...{ wrong, close }} act={() => void make()} words="Set them out" disabled={!line} />
    </Modal>
  );
}
