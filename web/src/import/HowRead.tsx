/** How the file is read, where it can be read in more ways than one: the questions its kind asks. */
import type { DrawingRead } from "../api/client";
import { Choice, Pick, Words } from "../ui/choices";
import { AngleField, LengthField, Setting } from "../ui/fields";
import type { ReadOptions } from "./reading";

const meshes = ["obj", "ply", "stl", "glb", "gltf"];
const lists = ["csv", "txt", "xyz", "pts", "asc"];
const maps = ["geojson", "json"];
type Unit = "mm" | "cm" | "m" | "in" | "ft" | "own" | "degrees";
const units: [Exclude<Unit, "own" | "degrees">, string][] = [
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
  ["ft", "feet"],
];

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
  const levels = options.levels ?? [levelIn(drawing)];
  const list = lists.includes(kind);
  const ifc = kind === "ifc" || kind === "ifczip";
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold text-sm">How is it read?</h3>
      {drawing.question && !drawing.table && (
        <p role="alert" className="mb-2 text-red text-sm">
          {drawing.question}
        </p>
      )}
      {!drawing.unit_known && !options.unit && !options.degrees && !drawing.question && (
        <p className="mb-2 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
          <b className="text-wax-deep">?</b> The file does not say its unit. Taken as {drawing.unit} it is
          {across(drawing.sizes[unitOf(drawing) ?? "mm"]).replace("·", "")}.{" "}
          <Words onClick={() => change({ unit: unitOf(drawing), degrees: null })}>That is right</Words> or choose
          another below.
        </p>
      )}
      <Setting label="Its unit">
        <Pick<Unit>
          label="Unit of the file"
          value={options.degrees ? "degrees" : (options.unit ?? "own")}
          ways={[
            ["own", drawing.question ? "not said" : `as read: ${drawing.unit}`],
            ...(maps.includes(kind) ? [["degrees", "degrees"] as [Unit, string]] : []),
            ...units.map(([unit, words]): [Unit, string] => [unit, `${words}${across(drawing.sizes[unit])}`]),
          ]}
          choose={(unit) =>
            change({
              unit: unit === "own" || unit === "degrees" ? null : unit,
              degrees: unit === "degrees" || null,
            })
          }
        />
      </Setting>
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
          {levels.map((level, index) => (
            <LengthField
              key={index}
              label={levels.length > 1 ? `Level cut ${index + 1} at height` : "Level cut at height"}
              mm={level}
              take={async (wanted) => {
                change({ levels: levels.map((each, at) => (at === index ? wanted : each)) });
                return null;
              }}
            />
          ))}
          <p className="mb-2 flex gap-3 text-sm">
            {levels.length < 20 && (
              <Words onClick={() => change({ levels: [...levels, next(levels)] })}>Cut at another height</Words>
            )}
            {levels.length > 1 && (
              <Words onClick={() => change({ levels: levels.slice(0, -1) })}>Remove the last one</Words>
            )}
          </p>
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
      {list && (
        <Choice
          label="Joined"
          value={options.order ?? "code"}
          ways={[
            ["code", "By code"],
            ["file", "All in order"],
          ]}
          choose={(order) => change({ order })}
        />
      )}
    </>
  );
}

/** The unit a drawing was taken to be in. */
const unitOf = (drawing: DrawingRead) => units.find(([, words]) => words === drawing.unit)?.[0];

/** How far across the drawing would be, in words. */
function across(mm: number | undefined): string {
  if (!mm) return "";
  const [size, unit] = mm < 1000 ? [mm, "mm"] : mm < 1e6 ? [mm / 1000, "m"] : [mm / 1e6, "km"];
  return ` · ${Number(size.toPrecision(3))} ${unit} across`;
}

/** A height for another cut: as far on as the last is from the one before, or a metre. */
function next(levels: number[]): number {
  const [last = 0, before = last - 1000] = [levels.at(-1), levels.at(-2)];
  return last + (last - before || 1000);
}

/** The height a mesh was cut at, as its layer says. */
function levelIn(drawing: DrawingRead): number {
  const found = drawing.layers.map((layer) => /^level cut at (-?[\d.]+)/.exec(layer.name)).find(Boolean);
  return found ? Number(found[1]) : 0;
}
