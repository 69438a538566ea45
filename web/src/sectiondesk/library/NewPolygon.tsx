/** A new section with equal sides, by its number of sides and how far it is across its flats or its corners. */
import { useState } from "react";
import type { Edit } from "../../api/client";
import { Button, Choice, Words } from "../../ui/choices";
import { CountField, LengthField, useForm } from "../../ui/fields";
import { useChanges } from "../../window/job";
import { usePart } from "../../window/store";

export function NewPolygon() {
  const { make } = useChanges();
  const { select } = usePart("select");
  const [open, setOpen] = useState(false);
  const [over, setOver] = useState<"flats" | "corners">("flats");
  const { values, put, settled } = useForm({ sides: 6, across: 60 });
  const [wrong, setWrong] = useState("");
  if (!open) return <Words onClick={() => setOpen(true)}>A regular polygon</Words>;
  const add = async () => {
    const now = await settled();
    if (!now) return;
    const { problem, made } = await make([{ kind: "add_polygon", name: `${now.sides} sides`, ...now, over } as Edit]);
    if (problem) setWrong(problem.detail);
    else select(made);
  };
  return (
    <span className="flex items-center gap-4">
      <CountField
        label="Sides"
        value={values.sides}
        take={async (sides) => {
          put({ sides });
          return null;
        }}
      />
      <LengthField
        label="Across"
        mm={values.across}
        take={async (across) => {
          put({ across });
          return null;
        }}
      />
      <span className="w-36">
        <Choice
          label="Across its"
          value={over}
          ways={[
            ["flats", "flats"],
            ["corners", "corners"],
          ]}
          choose={setOver}
          plain
        />
      </span>
      <Button strong onClick={() => void add()}>
        Add to job
      </Button>
      <Words onClick={() => setOpen(false)}>Cancel</Words>
      {wrong && (
        <span role="alert" className="text-red text-sm">
          {wrong}
        </span>
      )}
    </span>
  );
}
