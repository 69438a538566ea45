/** A frame: its shape and sizes, the planes that cut it, the bars that divide it and its panes. */
import type { Edit, Line, Problem } from "../../api/client";
import { type Frame, frameShapeOf, frameShapes } from "../../setting/frameShapes";
import { Choice, Pick, Words } from "../../ui/choices";
import { AngleField, CountField, LengthField, Setting } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { PanesOfFrame } from "./PanesOfFrame";

type Cut = NonNullable<Frame["cuts"]>[number];

export function FrameOfLine({ line, made }: { line: Line; made: Frame }) {
  const { edit } = useChanges();
  const shown = useShown();
  const own = new Set(
    (shown.job.lines ?? []).flatMap(({ id, made: how }) =>
      id === line.id || (how && "line" in how && how.line === line.id) ? [id] : [],
    ),
  );
  const set = (changes: object) => edit([{ kind: "set_made", line: line.id, changes } as Edit]);
  const shape = frameShapeOf(made.shape);
  const cuts = made.cuts ?? [];
  const put = (more: Cut[]) => set({ cuts: more });
  const length = (field: "width" | "height" | "eaves", label: string) => (
    <LengthField
      label={label}
      mm={made[field] ?? 0}
      bound={{ thing: line.id, field: `made.${field}` }}
      take={(mm) => set({ [field]: mm })}
    />
  );
  return (
    <>
      <Setting label="Shape">
        <Pick
          label="Shape of the frame"
          value={shape.shape}
          ways={frameShapes.map((one): [typeof one.shape, string] => [one.shape, one.words])}
          choose={(chosen) => void set({ shape: chosen })}
        />
      </Setting>
      {shape.width && length("width", "Width")}
      {length("height", "Height")}
      {shape.eaves && length("eaves", "Height of the eaves")}
      {shape.facets && <CountField label={shape.facets} value={made.facets ?? 8} take={(facets) => set({ facets })} />}
      {(["east", "north", "height"] as const).map((name, axis) => (
        <LengthField
          key={name}
          label={`Middle of its foot, ${name}`}
          mm={made.at?.[axis] ?? 0}
          take={(mm) => set({ at: [0, 1, 2].map((one) => (one === axis ? mm : null)) })}
        />
      ))}
      <ul aria-label="Cuts of the frame">
        {cuts.map((cut, number) => (
          <OneCut
            key={number}
            {...{ cut, own }}
            put={(one) => put(cuts.map((was, i) => (i === number ? one : was)))}
            remove={() => void put(cuts.filter((_, i) => i !== number))}
          />
        ))}
      </ul>
      <p className="mb-1">
        <Words
          onClick={() =>
            void put([...cuts, { up: Math.round((made.height ?? 0) * 0.75), along: 0, slope: 0, keep: "below" }])
          }
        >
          Cut it by a plane
        </Words>
      </p>
      <Bars line={line} />
      <PanesOfFrame line={line} />
    </>
  );
}

interface OfCut {
  cut: Cut;
  /** The lines of the frame itself, whose runs cannot cut it. */
  own: ReadonlySet<string>;
  put: (cut: Cut) => Promise<Problem | null>;
  remove: () => void;
}

function OneCut({ cut, own, put, remove }: OfCut) {
  const shown = useShown();
  const change = (part: Partial<Cut>) => put({ ...cut, ...part });
  const runs = (shown.job.runs ?? []).filter((run) => !own.has(run.line));
  return (
    <li className="my-1 border-chalk-soft border-l-2 pl-2">
      <Setting label="Cut by">
        <Pick
          label="What cuts the frame"
          value={cut.under ?? ""}
          ways={[["", "A plane"], ...runs.map((run): [string, string] => [run.id, `Underside of ${run.name}`])]}
          choose={(under) => void change({ under: under || null })}
        />
      </Setting>
      {!cut.under && (
        <>
          <LengthField label="At the height" mm={cut.up} take={(up) => change({ up })} />
          <AngleField label="Rising to the right by" degrees={cut.slope ?? 0} take={(slope) => change({ slope })} />
        </>
      )}
      {!cut.under && (cut.slope ?? 0) !== 0 && (
        <LengthField label="Right of the middle" mm={cut.along ?? 0} take={(along) => change({ along })} />
      )}
      <Choice
        label="What stays"
        value={cut.keep ?? "below"}
        ways={[
          ["below", "What is below"],
          ["above", "What is above"],
        ]}
        choose={(keep) => void change({ keep })}
      />
      <Words onClick={remove}>Remove the cut</Words>
    </li>
  );
}

/** The bars that divide a frame: so many, or in bays of a width. */
function Bars({ line }: { line: Line }) {
  const shown = useShown();
  const { edit } = useChanges();
  const bars = (shown.job.lines ?? []).filter((one) => one.made?.kind === "frame_bar" && one.made.line === line.id);
  const made = bars[0]?.made;
  const division = made?.kind === "frame_bar" ? made.division : null;
  const divide = (part: object | null) =>
    edit([
      {
        kind: "divide_frame",
        line: line.id,
        division: part && { way: division?.way ?? "upright", ...part },
      } as Edit,
    ]);
  return (
    <>
      <Choice
        label="Bars"
        value={division?.way ?? "none"}
        ways={[
          ["none", "No bars"],
          ["upright", "Upright bars"],
          ["level", "Level bars"],
        ]}
        choose={(way) => void divide(way === "none" ? null : { number: 3, ...(division ?? {}), way })}
      />
      {division && (
        <div className="mt-1.5">
          <CountField label="Number, in equal bays" value={bars.length} take={(number) => divide({ number })} />
          <LengthField
            label="Or clear between them"
            mm={division.number == null ? (division.clear ?? 0) : null}
            placeholder="equal"
            take={(clear) => divide({ number: null, clear })}
          />
        </div>
      )}
    </>
  );
}
