/** How big a section is: its sizes by name, how it grows, and the range that it is made in. */
import { useContext, useState } from "react";
import { type Edit, problemOf, type Section, type SectionFigures } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Tick, Words } from "../../ui/choices";
import { FigureField, readTyped } from "../../ui/fields";
import { count, fieldLength, sizeWords, unitWord } from "../../ui/figures";
import { JobId, useChanges, useShown, useUnits } from "../../window/job";
import { usePart } from "../../window/store";

type Size = NonNullable<Section["sizes"]>[number];
const OWN = ["width", "height", "wall"] as const;
const isOwn = (name: string) => OWN.some((own) => own === name.toLowerCase());

/** The value of a size, mm. */
function lengthOf(section: Section, size: Size): number {
  const own = OWN.find((one) => one === size.name.toLowerCase());
  return (own ? section[own] : size.value) ?? 0;
}

export function SizesOfSection({ section, figures }: { section: Section; figures: SectionFigures | undefined }) {
  const { edit } = useChanges();
  const units = useUnits();
  const { ranged, set } = usePart("ranged", "set");
  const [together, setTogether] = useState(true);
  const [limits, setLimits] = useState(false);
  const sizes = section.sizes ?? [];
  const entry = (name: string): Size => sizes.find((one) => one.name.toLowerCase() === name) ?? { name };
  const all = [...OWN.filter((name) => section[name] != null).map(entry), ...sizes.filter((one) => !isOwn(one.name))];
  const change = (changes: object) => edit([{ kind: "set_section", section: section.id, changes }]);
  const side = (name: "width" | "height") => (mm: number) => {
    const other = name === "width" ? "height" : "width";
    return change(
      together && section.grows !== "kept"
        ? { [name]: mm, [other]: (section[other] * mm) / section[name] }
        : { [name]: mm },
    );
  };
  return (
    <>
      <Asked question="How big is it?" answer={sizeWords(section, units)}>
        {all.map((size) => (
          <div key={size.name}>
            <SizeField
              section={section}
              size={size}
              take={size.name === "width" || size.name === "height" ? side(size.name) : null}
            />
            {limits && <Limits section={section} size={size} />}
          </div>
        ))}
        {section.grows !== "kept" && (
          <Tick label="Scale width and height together" checked={together} set={setTogether} />
        )}
        <p className="my-1 flex flex-wrap gap-x-3 gap-y-0.5">
          <NewSize section={section} />
          <Words onClick={() => setLimits(!limits)}>{limits ? "Hide the limits" : "Limits"}</Words>
        </p>
        <Choice
          label="How it grows"
          value={section.grows ?? "scaled"}
          ways={[
            ["scaled", "All of it scaled"],
            ["kept", "Corners and wall kept"],
          ]}
          choose={(grows) => void change({ grows })}
        />
        {section.grows === "kept" && figures && (
          <p className="mt-1 text-pencil text-xs">
            {figures.drawn.stretches.some(Boolean)
              ? "What stretches is marked beside the outline. Pick another straight there to let its part stretch instead."
              : "No part of it has only straights: nothing in it can stretch."}
          </p>
        )}
      </Asked>
      <Asked
        question="What is it made in?"
        answer={section.range?.length ? count(section.range.length, "size") : "one size"}
      >
        <RangeOf section={section} sizes={all} />
        {(section.range?.length ?? 0) > 0 && (
          <Tick label="Show the range on the desk" checked={ranged} set={(on) => set({ ranged: on })} />
        )}
      </Asked>
    </>
  );
}

function useSize(section: Section) {
  const { edit } = useChanges();
  return (change: object) => edit([{ kind: "set_sizes", section: section.id, sizes: [change] } as Edit]);
}

/** A size: a length, or a text with other sizes and the job's measures in it. */
function SizeField({
  section,
  size,
  take,
}: {
  section: Section;
  size: Size;
  /** What a plain length does, where that is something else. */
  take: ((mm: number) => ReturnType<ReturnType<typeof useSize>>) | null;
}) {
  const units = useUnits();
  const shown = useShown();
  const job = useContext(JobId);
  const change = useSize(section);
  const formula = shown.job.formulas?.find((one) => one.thing === section.id && one.field === size.name);
  const text = size.text ?? formula?.text;
  const value = fieldLength(lengthOf(section, size), units);
  const label = size.name.charAt(0).toUpperCase() + size.name.slice(1);
  return (
    <div className="flex items-start gap-2">
      <div className="min-w-0 flex-1">
        <FigureField
          label={label}
          value={text ?? value}
          note={text ? `= ${value}` : undefined}
          unit={units.system === "ft-in" ? "" : unitWord(units)}
          width={text ? "w-[130px]" : "w-[92px]"}
          take={async (typed) => {
            const read = take && (await readTyped(typed, units.system ?? "mm", job || undefined).catch(() => null));
            if (take && read && !read.uses.length) return take(read.mm);
            return change({ name: size.name, text: typed.trim() });
          }}
        />
      </div>
      {!isOwn(size.name) && (
        <span className="pt-1">
          <Words
            label={`Remove size ${size.name}`}
            onClick={() => void change({ was: size.name, name: size.name, remove: true })}
          >
            Remove
          </Words>
        </span>
      )}
    </div>
  );
}

function Limits({ section, size }: { section: Section; size: Size }) {
  const units = useUnits();
  const job = useContext(JobId);
  const change = useSize(section);
  const limit = (which: "least" | "most") => (
    <FigureField
      label={which === "least" ? "at least" : "at most"}
      value={size[which] == null ? "" : fieldLength(size[which] as number, units)}
      unit=""
      width="w-16"
      placeholder="none"
      take={async (text) => {
        if (!text.trim()) return change({ name: size.name, [which]: null });
        try {
          const { mm } = await readTyped(text, units.system ?? "mm", job || undefined);
          return await change({ name: size.name, [which]: mm });
        } catch (error) {
          return problemOf(error);
        }
      }}
    />
  );
  return (
    <fieldset className="mb-1 flex gap-3 pl-3" aria-label={`Limits of ${size.name}`}>
      {limit("least")}
      {limit("most")}
    </fieldset>
  );
}

function NewSize({ section }: { section: Section }) {
  const change = useSize(section);
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  if (!open) return <Words onClick={() => setOpen(true)}>Name a size</Words>;
  const field = "h-7 rounded-[3px] border border-edge bg-paper px-2";
  const add = async () => {
    const problem = await change({ name: name.trim(), text: text.trim() });
    if (problem) return setWrong(problem.detail);
    setOpen(false);
    setName("");
    setText("");
    setWrong("");
  };
  return (
    <span className="block w-full">
      <span className="flex items-center gap-1.5">
        <input
          aria-label="Name of the size"
          className={`${field} min-w-0 flex-1`}
          placeholder="nosing radius"
          value={name}
          spellCheck={false}
          onChange={(event) => setName(event.target.value)}
        />
        <input
          aria-label="What the size is"
          className={`figure ${field} w-24 text-right`}
          placeholder="height / 2"
          value={text}
          spellCheck={false}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && void add()}
        />
        <Words onClick={() => void add()}>Add</Words>
      </span>
      <span className="text-pencil text-xs">Let a length or a radius that is held follow it, below.</span>
      {wrong && (
        <span role="alert" className="block text-red text-xs">
          {wrong}
        </span>
      )}
    </span>
  );
}

/** The range: a row for each size it is made in, a column for each of its sizes that follows nothing. */
function RangeOf({ section, sizes }: { section: Section; sizes: Size[] }) {
  const { edit } = useChanges();
  const units = useUnits();
  const [wrong, setWrong] = useState("");
  const rows = section.range ?? [];
  const free = sizes.filter((size) => !size.text);
  const change = async (row: object) => {
    const problem = await edit([{ kind: "set_range", section: section.id, rows: [row] } as Edit]);
    setWrong(problem?.detail ?? "");
    return problem;
  };
  const another = () => {
    const size = free.find((one) => one.name === "height") ?? free[0];
    if (!size) return setWrong("Every size follows something: nothing is left for a range to set.");
    const last = rows[rows.length - 1]?.values[size.name] ?? 0;
    const mm = rows.length ? last + 25 : lengthOf(section, size);
    const words = fieldLength(mm, units);
    void change({
      name: rows.some((one) => one.name === words) ? `${words} again` : words,
      values: { [size.name]: mm },
    });
  };
  return (
    <>
      {rows.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full border-collapse text-sm" aria-label="Range">
            <thead>
              <tr className="border-rule border-b text-pencil text-xs">
                <th className="py-0.5 text-left font-normal">Size</th>
                {free.map((size) => (
                  <th key={size.name} className="pl-1 text-right font-normal">
                    {size.name}
                  </th>
                ))}
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.name}>
                  <td>
                    <Cell
                      label={`Name of ${row.name}`}
                      value={row.name}
                      take={(name) => change({ was: row.name, name })}
                      left
                    />
                  </td>
                  {free.map((size) => (
                    <td key={size.name} className="pl-1">
                      <LengthCell
                        label={`${size.name} of ${row.name}`}
                        mm={row.values[size.name] ?? null}
                        take={(mm) => change({ was: row.name, values: { [size.name]: mm } })}
                      />
                    </td>
                  ))}
                  <td className="pl-1 text-right">
                    <Words
                      label={`Remove ${row.name} from the range`}
                      onClick={() => void change({ was: row.name, remove: true })}
                    >
                      ×
                    </Words>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {wrong && (
        <p role="alert" className="mt-0.5 text-red text-xs">
          {wrong}
        </p>
      )}
      <p className="mt-0.5 flex items-baseline gap-x-3">
        <Words onClick={another}>Add a size to the range</Words>
        {rows.length === 0 && <span className="text-pencil text-xs">Only as it stands, so far.</span>}
      </p>
    </>
  );
}

function LengthCell({
  label,
  mm,
  take,
}: {
  label: string;
  mm: number | null;
  take: (mm: number | null) => Promise<unknown>;
}) {
  const units = useUnits();
  const job = useContext(JobId);
  const [wrong, setWrong] = useState(false);
  return (
    <Cell
      label={label}
      value={mm === null ? "" : fieldLength(mm, units)}
      wrong={wrong}
      take={async (text) => {
        setWrong(false);
        if (!text.trim()) return take(null);
        const read = await readTyped(text, units.system ?? "mm", job || undefined).catch(() => null);
        if (read) return take(read.mm);
        setWrong(true);
      }}
    />
  );
}

/** A cell that is typed into: Enter or leaving takes it, Escape gives up. */
function Cell({
  label,
  value,
  take,
  left,
  wrong,
}: {
  label: string;
  value: string;
  take: (text: string) => Promise<unknown>;
  left?: boolean;
  wrong?: boolean;
}) {
  const [text, setText] = useState<string | null>(null);
  const commit = () => {
    if (text === null || text.trim() === value) return setText(null);
    void take(text.trim()).then(() => setText(null));
  };
  return (
    <input
      aria-label={label}
      aria-invalid={wrong ?? false}
      title={wrong ? "Not a length: type a figure such as 95" : undefined}
      className={`figure h-6 w-full min-w-14 rounded-[3px] border bg-paper px-1 ${left ? "" : "text-right"} ${wrong ? "border-red" : "border-edge"}`}
      value={text ?? value}
      placeholder={left ? "" : "–"}
      spellCheck={false}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") {
          event.stopPropagation();
          setText(null);
        }
      }}
    />
  );
}
