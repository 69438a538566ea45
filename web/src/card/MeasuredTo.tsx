/** How far a section lies from its line, and what of it that is said of: its datum, or a side of it. */
import { Pick } from "../ui/choices";
import { LengthField, Setting } from "../ui/fields";

/** What is measured; nothing where several differ. */
export interface Measured {
  stand_off?: number | null;
  lift?: number | null;
  stand_off_of?: "datum" | "front" | "middle" | "back" | null;
  lift_of?: "datum" | "top" | "middle" | "bottom" | null;
}

export function MeasuredTo({
  value,
  bound,
  various,
  set,
}: {
  value: Measured;
  /** The thing of the job whose lengths these are, and the path to them. */
  bound?: { thing: string; path: string };
  various: (value: unknown) => string | undefined;
  set: (changes: object) => Promise<unknown>;
}) {
  const field = (name: string) => bound && { thing: bound.thing, field: `${bound.path}.${name}` };
  return (
    <>
      <LengthField
        label="Stand-off"
        width="w-16"
        placeholder={various(value.stand_off)}
        bound={field("stand_off")}
        mm={value.stand_off ?? null}
        take={(stand_off) => set({ stand_off }) as Promise<null>}
      />
      <Setting label="measured to">
        <Pick
          label="Measured across to"
          value={value.stand_off_of ?? null}
          various="various"
          ways={[
            ["datum", "its datum"],
            ["front", "its front"],
            ["middle", "its middle"],
            ["back", "its back"],
          ]}
          choose={(stand_off_of) => void set({ stand_off_of })}
        />
      </Setting>
      <LengthField
        label="Lift"
        width="w-16"
        placeholder={various(value.lift)}
        bound={field("lift")}
        mm={value.lift ?? null}
        take={(lift) => set({ lift }) as Promise<null>}
      />
      <Setting label="measured to">
        <Pick
          label="Measured up to"
          value={value.lift_of ?? null}
          various="various"
          ways={[
            ["datum", "its datum"],
            ["top", "its top"],
            ["middle", "its middle"],
            ["bottom", "its bottom"],
          ]}
          choose={(lift_of) => void set({ lift_of })}
        />
      </Setting>
    </>
  );
}
