/** Letting lines stand in several places: by clicking, in a grid, along another line, or from a list. */
import { useState } from "react";
import type { Edit, Problem } from "../api/client";
import { Button, Choice, Pick, Tick } from "../ui/choices";
import { AngleField, CountField, LengthField, Setting, TextField, useForm } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { useChanges, useShown } from "../window/job";
import { useWindow } from "../window/store";
import { lineById, typicalById } from "../window/things";

type Way = "click" | "grid" | "along" | "list";

/** Ask for one place after another, until that is cancelled. */
function pickPlaces(typical: string, ask: string, put: (at: [number, number]) => Promise<Problem | null>) {
  const again = () =>
    useWindow.getState().set({
      view: "plan",
      plane: null,
      picking: {
        ask: [ask],
        spots: [],
        done: ([spot]) => {
          if (!spot) return;
          const [x, y] = spot.point;
          void put([x, y]).then((problem) => {
            if (!problem && useWindow.getState().selected[0] === typical) again();
          });
        },
      },
    });
  again();
}

export function MorePlaces({ close }: { close: () => void }) {
  const shown = useShown();
  const { edit, make } = useChanges();
  const selected = useWindow((state) => state.selected);
  const typical = typicalById(shown, selected[0]);
  const lines = selected.map((id) => lineById(shown, id)).filter((line) => line !== undefined);
  const first = typical ? lineById(shown, typical.lines[0]) : lines[0];
  const along = (shown.job.lines ?? []).filter(
    (line) => !(typical?.lines ?? lines.map((one) => one.id)).includes(line.id),
  );
  const known = typical?.laid;
  const { values, put, settled } = useForm(() => ({
    name: first?.name ?? "",
    here: typical?.here ?? "1",
    way: (known && known.kind !== "row" ? known.kind : "click") as Way,
    counts: (known?.kind === "grid" ? known.counts : [3, 1, 1]) as number[],
    centres: (known?.kind === "grid" ? known.centres : [2400, 0, 0]) as number[],
    line: known?.kind === "along" ? known.line : (along[0]?.id ?? ""),
    from: known?.kind === "along" ? (known.first ?? 0) : 0,
    every: known?.kind === "along" ? known.centres : 1200,
    count: known?.kind === "along" ? known.count : 3,
    turn: known?.kind === "along" ? (known.turn ?? 0) : 0,
    hereStands: typical?.here_stands ?? true,
    text: "",
  }));
  const { way } = values;
  const [wrong, setWrong] = useState("");
  if (!first) return null;

  const done = (problem: Problem | null, id: string, now: typeof values) => {
    // So many are asked about over the window; what is answered there goes on by itself.
    if (problem?.code === "confirm-many") return close();
    if (problem) return setWrong(problem.detail);
    close();
    if (now.way !== "click") return;
    const base = (typical?.base ?? first.start) as number[];
    pickPlaces(id, "Click where its base point stands, one place after another", (at) =>
      edit([{ kind: "add_places", typical: id, places: [{ at: [...at, base[2] ?? 0] }] } as Edit]),
    );
  };

  const act = async () => {
    const now = await settled();
    if (!now) return;
    const laid =
      now.way === "grid"
        ? { kind: "grid", counts: now.counts, centres: now.centres }
        : now.way === "along"
          ? { kind: "along", line: now.line, first: now.from, centres: now.every, count: now.count, turn: now.turn }
          : undefined;
    if (typical) {
      const edits: object[] = [];
      const changes = { ...(laid ? { laid } : {}), here: now.here, here_stands: now.hereStands };
      edits.push({ kind: "set_typical", typical: typical.id, changes });
      if (now.way === "list") edits.push({ kind: "list_places", typical: typical.id, text: now.text });
      return done(await edit(edits as Edit[]), typical.id, now);
    }
    const body = {
      name: now.name,
      lines: lines.map((line) => line.id),
      here: now.here,
      here_stands: now.hereStands,
      ...(laid ? { laid } : {}),
      ...(now.way === "list" ? { listed: now.text } : {}),
    };
    const { problem } = await make([{ kind: "add_typical", typical: body } as Edit], (made) => {
      const id = made.find((one) => one.startsWith("T"));
      if (!id) return;
      useWindow.getState().select([id]);
      done(null, id, now);
    });
    if (problem?.code === "confirm-many") close();
    else if (problem) setWrong(problem.detail);
  };
  const take =
    <K extends keyof typeof values>(name: K) =>
    async (value: (typeof values)[K]) => {
      put({ [name]: value } as Partial<typeof values>);
      return null;
    };
  const takeAt = (name: "counts" | "centres", axis: number) => async (value: number) => {
    put((now) => ({ [name]: now[name].map((old, i) => (i === axis ? value : old)) }));
    return null;
  };
  const title = typical ? `More places for ${typical.name}` : `${first.name} in several places`;
  return (
    <Modal title={title} close={close}>
      <p className="mb-2 text-pencil text-sm">
        It is drawn once, with all that is on it; where it is edited there, every place follows, and the cutting list
        tells each piece once with how many there are.
      </p>
      {!typical && <TextField label="Called" value={values.name} take={take("name")} small />}
      <TextField label="The place where it is drawn" value={values.here} take={take("here")} small />
      <Tick
        label="It stands there too"
        checked={values.hereStands}
        set={(hereStands) => {
          put({ hereStands });
          return null;
        }}
      />
      <div className="my-2">
        <Choice
          label="Where it stands"
          value={way}
          ways={[
            ["click", "Click"],
            ["grid", "Grid"],
            ["along", "Along a line"],
            ["list", "List"],
          ]}
          choose={(way) => put({ way })}
        />
      </div>
      {way === "click" && (
        <p className="text-pencil text-sm">
          Click one place after another on the plan, each where the base point of what is drawn comes to stand. They are
          named on from {values.here}.
        </p>
      )}
      {way === "grid" &&
        (["east", "north", "up"] as const).map((name, axis) => (
          <div key={name}>
            <CountField label={`How many, ${name}`} value={values.counts[axis] ?? 1} take={takeAt("counts", axis)} />
            {(values.counts[axis] ?? 1) > 1 && (
              <LengthField label={`Centres, ${name}`} mm={values.centres[axis] ?? 0} take={takeAt("centres", axis)} />
            )}
          </div>
        ))}
      {way === "along" &&
        (along.length ? (
          <>
            <Setting label="Along">
              <Pick
                label="Along"
                value={values.line}
                ways={along.map((line): [string, string] => [line.id, line.name])}
                choose={(line) => put({ line })}
              />
            </Setting>
            <LengthField label="First at" mm={values.from} take={take("from")} />
            <LengthField label="Centres" mm={values.every} take={take("every")} />
            <CountField label="How many" value={values.count} take={take("count")} />
            <AngleField label="Turned against it" degrees={values.turn} take={(turn) => take("turn")(turn as number)} />
          </>
        ) : (
          <p className="text-pencil text-sm">There is no other line in the job to lay them along: draw one first.</p>
        ))}
      {way === "list" && (
        <>
          <label htmlFor="places-listed" className="text-pencil text-sm">
            A place in each row: name; east; north; height; turned by; mirrored
          </label>
          <textarea
            id="places-listed"
            rows={6}
            spellCheck={false}
            value={values.text}
            placeholder={"W2; 3000; 0\nW3; 6000; 0; 0; 90; mirrored"}
            onChange={(event) => put({ text: event.target.value })}
            className="figure mt-1 w-full rounded-[3px] border border-edge bg-paper px-2 py-1 text-sm"
          />
          <p className="text-pencil text-xs">
            Separated by semicolons or tabs, as copied from a spreadsheet. Values left out at the end are as drawn.
          </p>
        </>
      )}
      {wrong && (
        <p role="alert" className="mt-2 text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong onClick={() => void act()} disabled={way === "along" && !along.length}>
          {way === "click" ? "Click the places" : "Add the places"}
        </Button>
      </div>
    </Modal>
  );
}
