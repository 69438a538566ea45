/** A frame made: its shape, its sizes and what its members are made of. It becomes a typical, to be set out by a row. */
import { useState } from "react";
import type { Edit } from "../api/client";
import { Pick, Words } from "../ui/choices";
import { CountField, LengthField, Setting, TextField, useForm } from "../ui/fields";
import { Modal, ModalFoot } from "../ui/Modal";
import { useChanges, useShown } from "../window/job";
import { usePart } from "../window/store";
import { frameShapeOf, frameShapes } from "./frameShapes";

export function NewFrame({ close }: { close: () => void }) {
  const shown = useShown();
  const { make } = useChanges();
  const { select, show } = usePart("select", "show");
  const sections = shown.job.sections ?? [];
  const [shape, setShape] = useState(frameShapes[0]?.shape ?? "arch");
  const [section, setSection] = useState(sections[0]?.id ?? null);
  const [wrong, setWrong] = useState("");
  const { values, put, settled } = useForm({
    name: "Frame",
    width: 3000,
    height: 2600,
    eaves: 2000,
    facets: 8,
    bars: 0,
  });
  const figures = frameShapeOf(shape);
  const take =
    <K extends keyof typeof values>(name: K) =>
    async (value: (typeof values)[K]) => {
      put({ [name]: value } as Partial<typeof values>);
      return null;
    };
  const act = async () => {
    const now = await settled();
    if (!now || !section) return;
    const { name, width, height, eaves, facets, bars } = now;
    const edit = {
      kind: "add_frame",
      name,
      at: placeFor(shown.lines.map((line) => line.origin)),
      section,
      body: { shape, width, height, eaves, facets },
      division: bars > 0 ? { number: bars } : null,
    };
    const { problem } = await make([edit as Edit], (made) => {
      close();
      select(made.filter((id) => id.startsWith("L")).slice(0, 1));
      // On plan a frame is one stroke.
      show("solid");
    });
    if (problem) setWrong(problem.detail);
  };
  return (
    <Modal title="Make a frame" close={close}>
      {sections.length === 0 ? (
        <p className="mb-4">
          Its members need a section.{" "}
          <Words
            onClick={() => {
              close();
              show("library");
            }}
          >
            Pick one first
          </Words>
        </p>
      ) : (
        <>
          <p className="mb-2 text-pencil text-sm">
            It is drawn once, facing south. Set it out along a line as an item: every piece of it is listed with how
            many there are.
          </p>
          <TextField label="Called" value={values.name} take={take("name")} small />
          <Setting label="Shape">
            <Pick
              label="Shape of the frame"
              value={shape}
              ways={frameShapes.map((one): [typeof one.shape, string] => [one.shape, one.words])}
              choose={setShape}
            />
          </Setting>
          {figures.width && <LengthField label="Width" mm={values.width} take={take("width")} />}
          <LengthField label="Height" mm={values.height} take={take("height")} />
          {figures.eaves && <LengthField label="Height of the eaves" mm={values.eaves} take={take("eaves")} />}
          {figures.facets && <CountField label={figures.facets} value={values.facets} take={take("facets")} />}
          <Setting label="Members">
            <Pick
              label="Section of the members"
              value={section}
              ways={sections.map((one): [string, string] => [one.id, one.name])}
              choose={setSection}
            />
          </Setting>
          <CountField label="Upright bars" value={values.bars} take={take("bars")} />
        </>
      )}
      <ModalFoot {...{ wrong, close }} act={() => void act()} words="Make it" disabled={!section} />
    </Modal>
  );
}

/** A place that is free for what is drawn once: west of all lines, where it is in nobody's way. */
function placeFor(origins: readonly (readonly number[])[]): [number, number, number] {
  const west = Math.min(0, ...origins.map(([x]) => x ?? 0));
  const south = Math.min(0, ...origins.map(([, y]) => y ?? 0));
  return [Math.round(west - 5000), Math.round(south), 0];
}
