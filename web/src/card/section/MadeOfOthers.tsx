/** Making an outline of others: joined with a shape or another section, cut by one, or what they have in common; mirrored, turned. */
import { useEffect, useState } from "react";
import type { Edit, Section } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Button, Choice, Pick, Tick, Words } from "../../ui/choices";
import { AngleField, LengthField, Setting, useForm } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { usePart } from "../../window/store";

type How = "join" | "cut" | "common";

export function MadeOfOthers({ section }: { section: Section }) {
  const { edit } = useChanges();
  const [open, setOpen] = useState(false);
  const turn = (changes: object) => void edit([{ kind: "turn_outline", section: section.id, ...changes } as Edit]);
  return (
    <Asked question="Is it made of others?" answer="join, cut, mirror, turn">
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        <Words onClick={() => setOpen(!open)}>{open ? "Not now" : "Join or cut"}</Words>
        <Words onClick={() => turn({ mirrored: true })}>Mirror</Words>
        <Words onClick={() => turn({ turn: 90 })}>Turn left</Words>
        <Words onClick={() => turn({ turn: -90 })}>Turn right</Words>
      </p>
      {open && <Combine section={section} done={() => setOpen(false)} />}
    </Asked>
  );
}

function Combine({ section, done }: { section: Section; done: () => void }) {
  const shown = useShown();
  const { edit, preview } = useChanges();
  const { set } = usePart("set");
  const [how, setHow] = useState<How>("cut");
  const [what, setWhat] = useState("rectangle");
  const [mirrored, setMirrored] = useState(false);
  const { values, put, settled } = useForm({ width: 10, height: 10, radius: 5, x: 0, y: 0, turn: 0 });
  const [wrong, setWrong] = useState("");
  const others = (shown.job.sections ?? []).filter((one) => one.id !== section.id);
  const made = (now: typeof values): Edit => {
    const at = [now.x, now.y];
    const other =
      what === "rectangle"
        ? { kind: "rectangle", width: now.width, height: now.height, at }
        : what === "circle"
          ? { kind: "circle", radius: now.radius, at }
          : { kind: "section", section: what, at, turn: now.turn, mirrored };
    return { kind: "combine_outline", section: section.id, how, other } as Edit;
  };
  // What would come of it is shown while it is set.
  const looked = JSON.stringify(made(values));
  useEffect(() => {
    preview([JSON.parse(looked)]);
    return () => preview(null);
  }, [looked, preview]);
  const length = (name: "width" | "height" | "radius" | "x" | "y", label: string) => (
    <LengthField
      label={label}
      mm={values[name]}
      take={async (mm) => {
        put({ [name]: mm });
        return null;
      }}
    />
  );
  const take = async () => {
    const now = await settled();
    if (!now) return;
    preview(null);
    const problem = await edit([made(now)]);
    if (problem) return setWrong(problem.detail);
    set({ parts: [] });
    done();
  };
  return (
    <div className="mt-1.5 border-chalk border-l-[3px] pl-3">
      <Choice<How>
        label="How they are put together"
        value={how}
        ways={[
          ["join", "Join"],
          ["cut", "Cut away"],
          ["common", "In common"],
        ]}
        choose={setHow}
      />
      <div className="mt-1.5" />
      <Setting label="With">
        <Pick
          label="With"
          value={what}
          ways={[
            ["rectangle", "a rectangle"],
            ["circle", "a circle"],
            ...others.map((one): [string, string] => [one.id, one.name]),
          ]}
          choose={setWhat}
        />
      </Setting>
      {what === "rectangle" && (
        <>
          {length("width", "Its width")}
          {length("height", "Its height")}
        </>
      )}
      {what === "circle" && length("radius", "Its radius")}
      {length("x", what === "circle" ? "Middle, across" : "Its back, across")}
      {length("y", what === "circle" ? "Middle, up" : "Its bottom, up")}
      {what !== "rectangle" && what !== "circle" && (
        <>
          <AngleField
            label="Turned by"
            degrees={values.turn}
            take={async (turn) => {
              put({ turn });
              return null;
            }}
          />
          <Tick label="Mirrored" checked={mirrored} set={setMirrored} />
        </>
      )}
      {wrong && (
        <p role="alert" className="text-red text-xs">
          {wrong}
        </p>
      )}
      <div className="mt-1 flex items-baseline gap-3">
        <Button strong onClick={() => void take()}>
          {{ join: "Join them", cut: "Cut it away", common: "Keep what is common" }[how]}
        </Button>
        <span className="text-pencil text-xs">Shown on the desk as it would be.</span>
      </div>
    </div>
  );
}
