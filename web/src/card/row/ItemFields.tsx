/** What an item is, and its size: the fields of its kind. */
import { useState } from "react";
import type { Problem } from "../../api/client";
import { type Material, materialWays } from "../../sheet/tones";
import { Choice, Pick, Words } from "../../ui/choices";
import { LengthField, Setting } from "../../ui/fields";
import { useShown } from "../../window/job";
import { BringItem } from "./BringItem";
import { type Item, itemKindOf, itemWays, quarters, saidOf } from "./itemKinds";

export function ItemFields({
  item,
  thing,
  change,
  material,
  letter = "",
}: {
  item: Item;
  /** The row, whose item's lengths can follow measures; without it they are plain. */
  thing?: string;
  change: (part: { kind?: string } & Record<string, unknown>) => Promise<Problem | null>;
  material: { value: Material | null; various?: string; choose: (material: Material) => void };
  /** Which item of several it is. */
  letter?: string;
}) {
  const kind = itemKindOf(item.kind);
  const values = item as unknown as Record<string, number | string>;
  const named = (label: string) => (letter ? `${label} of ${letter}` : label);
  const { choice } = kind;
  const { sections = [], typicals = [] } = useShown().job;
  const [bringing, setBringing] = useState(false);
  return (
    <>
      <Setting label="Kind">
        <Pick
          label={named("Kind")}
          value={item.kind}
          ways={itemWays(typicals.length > 0)}
          choose={(chosen) =>
            chosen === "brought" ? setBringing(true) : void change({ kind: chosen, ...saidOf(chosen, typicals) })
          }
        />
      </Setting>
      {bringing && (
        <BringItem
          close={() => setBringing(false)}
          take={async (brought) => {
            const problem = await change(brought);
            if (!problem) setBringing(false);
            return problem;
          }}
        />
      )}
      {item.kind === "brought" && (
        <>
          <Setting label="File">
            <span className="truncate">
              {item.called} <Words onClick={() => setBringing(true)}>Bring in another</Words>
            </span>
          </Setting>
          <Setting label="Turned on its foot by">
            <Pick
              label={named("Turned on its foot by")}
              value={String(item.front ?? 0)}
              ways={quarters}
              choose={(front) => void change({ front: Number(front) })}
            />
          </Setting>
        </>
      )}
      {choice && (
        <div className="mb-1.5">
          <Choice
            label={named(choice.label)}
            value={String(values[choice.field] ?? "")}
            ways={choice.ways}
            choose={(way) => void change({ [choice.field]: way })}
          />
        </div>
      )}
      {item.kind === "typical" && (
        <Setting label="Typical">
          <Pick
            label={named("Typical")}
            value={item.of}
            ways={typicals.map((one): [string, string] => [one.id, one.name])}
            choose={(of) => void change({ of, called: typicals.find((one) => one.id === of)?.name ?? of })}
          />
        </Setting>
      )}
      {item.kind === "turned" && (
        <Setting
          label="Taken from"
          note={
            <p className="mb-1 text-pencil text-sm">
              Half of it, as it is drawn on the section desk: its left side is the axis.
            </p>
          }
        >
          <Pick
            label={named("Taken from")}
            value={sections.find((one) => one.name === item.of)?.id ?? null}
            ways={sections.map((one): [string, string] => [one.id, one.name])}
            choose={(id) => {
              const taken = sections.find((one) => one.id === id);
              if (taken) void change({ outline: taken.outline, of: taken.name, height: taken.height });
            }}
            various={item.of ?? "choose"}
          />
        </Setting>
      )}
      {kind.lengths.map(([field, label]) => (
        <LengthField
          key={field}
          label={label}
          mm={Number(values[field] ?? 0)}
          bound={thing ? { thing, field: `item.${field}` } : undefined}
          take={(mm) => change({ [field]: mm })}
        />
      ))}
      {item.kind !== "typical" && (
        <Setting label="Material">
          <Pick
            label={named("Material")}
            value={material.value}
            ways={materialWays}
            choose={material.choose}
            {...(material.various ? { various: material.various } : {})}
          />
        </Setting>
      )}
    </>
  );
}
