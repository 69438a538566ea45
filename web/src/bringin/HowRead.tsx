/** How the file is read, where it can be read in more ways than one: the questions its kind asks. */
import type { DrawingRead } from "../api/client";
import { Choice, Pick } from "../ui/choices";
import { AngleField, LengthField, Setting } from "../ui/fields";
import type { ReadOptions } from "./reading";

const meshes = ["obj", "ply", "stl", "glb", "gltf"];
const lists = ["csv", "txt", "xyz", "pts", "asc"];
const columns = ["number", "east", "north", "height", "code", "leave"] as const;
type Column = (typeof columns)[number];
type Unit = "mm" | "cm" | "m" | "in" | "ft" | "own";

export function HowRead({
  drawing,
  options,
  read,
}: {
  drawing: DrawingRead;
  options: ReadOptions;
  read: (options: ReadOptions) => void;
}) {
  const kind = drawing.kind;
  const change = (part: ReadOptions) => read({ ...options, ...part });
  const mesh = meshes.includes(kind);
  const list = lists.includes(kind);
  const ifc = kind === "ifc" || kind === "ifczip";
  const asksUnit = mesh || list || kind === "geojson" || kind === "json" || kind === "svg";
  if (!asksUnit && !ifc) return null;
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold text-sm">How is it read?</h3>
      {asksUnit && (
        <Setting label="Its unit">
          <Pick<Unit>
            label="Unit of the file"
            value={options.unit ?? "own"}
            ways={[
              ["own", `as read: ${drawing.unit}`],
              ["mm", "millimetres"],
              ["cm", "centimetres"],
              ["m", "metres"],
              ["in", "inches"],
              ["ft", "feet"],
            ]}
            choose={(unit) => change({ unit: unit === "own" ? null : unit })}
          />
        </Setting>
      )}
      {mesh && (
        <>
          <AngleField
            label="Edges sharper than"
            degrees={options.sharp ?? 30}
            take={async (sharp) => {
              change({ sharp });
              return null;
            }}
          />
          <LengthField
            label="Level cut at height"
            mm={options.level ?? levelIn(drawing)}
            take={async (level) => {
              change({ level });
              return null;
            }}
          />
          <Choice
            label="Which way is up"
            value={options.upright ?? (kind === "glb" || kind === "gltf" ? "y" : "z")}
            ways={[
              ["z", "z is up"],
              ["y", "y is up"],
            ]}
            choose={(upright) => change({ upright })}
          />
        </>
      )}
      {ifc && (
        <Choice
          label="Level of the lines"
          value={options.storey ?? "floor"}
          ways={[
            ["floor", "At floor level"],
            ["ceiling", "At ceiling level"],
          ]}
          choose={(storey) => change({ storey })}
        />
      )}
      {list && <Columns drawing={drawing} options={options} change={change} />}
    </>
  );
}

/** The height a mesh was cut at, as its layer says. */
function levelIn(drawing: DrawingRead): number {
  const found = drawing.layers.map((layer) => /^level cut at (-?\d+)/.exec(layer.name)).find(Boolean);
  return found ? Number(found[1]) : 0;
}

function Columns({
  drawing,
  options,
  change,
}: {
  drawing: DrawingRead;
  options: ReadOptions;
  change: (part: ReadOptions) => void;
}) {
  const told = drawing.notes.map((note) => /set apart by (\w+): (.*)\.$/.exec(note.join(""))).find(Boolean);
  const names = (options.columns ?? (told?.[2]?.split(", ") as Column[] | undefined) ?? []) as Column[];
  const delimiter = { commas: ",", semicolons: ";", tabs: "tab", spaces: "space" }[told?.[1] ?? "commas"] ?? ",";
  return (
    <>
      <Setting label="Columns set apart by">
        <Pick
          label="Delimiter"
          value={(options.delimiter ?? delimiter) as "," | ";" | "tab" | "space"}
          ways={[
            [",", "commas"],
            [";", "semicolons"],
            ["tab", "tabs"],
            ["space", "spaces"],
          ]}
          choose={(one) => change({ delimiter: one, columns: null })}
        />
      </Setting>
      {names.map((name, index) => (
        <Setting key={index} label={`Column ${index + 1}`}>
          <Pick<Column>
            label={`Column ${index + 1}`}
            value={name}
            ways={columns.map((one): [Column, string] => [one, one === "leave" ? "leave out" : one])}
            choose={(one) => change({ columns: names.map((old, i) => (i === index ? one : old)) })}
          />
        </Setting>
      ))}
      <Choice
        label="Joined"
        value={options.order ?? "code"}
        ways={[
          ["code", "By code"],
          ["file", "All in order"],
        ]}
        choose={(order) => change({ order })}
      />
    </>
  );
}
