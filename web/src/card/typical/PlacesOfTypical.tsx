/** The places of a typical, one under the other, and what can be said of those that are picked. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import type { JobShown, PlaceOf, Problem, Typical } from "../../api/client";
import { Pick, Tick, Words } from "../../ui/choices";
import { AngleField, LengthField, Question, TextField } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { shared } from "../shared";

/** Height of a row of the list, px. */
const ROW = 26;

export function PlacesOfTypical({ typical }: { typical: Typical }) {
  const units = useUnits();
  const { places: picked, pickPlace, select, set } = usePart("places", "pickPlace", "select", "set");
  const places = typical.places ?? [];
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: places.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    // The row of where it is drawn stands before them.
    scrollMargin: ROW,
    getItemKey: (index) => places[index]?.id ?? index,
    overscan: 6,
  });
  const first = places.findIndex((place) => place.name === picked[0]);
  // A place that is picked in the drawing comes into sight in the list.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when another is picked
  useEffect(() => {
    if (first >= 0) list.scrollToIndex(first);
  }, [first]);
  if (!places.length)
    return <p className="mt-3 text-pencil text-sm">It stands only where it is drawn so far: give it more places.</p>;
  const chosen = places.filter((place) => picked.includes(place.name));
  const pick = (event: React.MouseEvent, index: number) => {
    const place = places[index];
    if (!place) return;
    if (event.shiftKey && first >= 0) {
      const [low, high] = [Math.min(first, index), Math.max(first, index)];
      const some = places.slice(low, high + 1).map((one) => one.name);
      set({ places: [picked[0] as string, ...some.filter((one) => one !== picked[0])] });
    } else pickPlace(typical.id, place.name, event.ctrlKey || event.metaKey);
  };
  return (
    <>
      <div className="mt-4 mb-1 flex items-baseline justify-between">
        <h3 className="font-semibold text-sm">Its places</h3>
        {places.length > 1 && (
          <Words onClick={() => set({ places: places.map((place) => place.name) })}>Select all</Words>
        )}
      </div>
      <div ref={box} className="max-h-[236px] overflow-y-auto rounded-[3px] border border-rule bg-paper">
        <button
          type="button"
          title="Select its lines, to work on them there"
          onClick={() => select(typical.lines)}
          className="flex w-full cursor-pointer items-center gap-2 border-transparent border-l-[3px] px-2 text-left text-sm hover:bg-bench"
          style={{ height: ROW }}
        >
          <span
            className={`min-w-0 flex-1 truncate ${typical.here_stands === false ? "text-pencil line-through" : ""}`}
          >
            {typical.here ?? "1"}
          </span>
          <span className="shrink-0 text-pencil text-xs">as drawn</span>
        </button>
        <ul aria-label="Places" className="relative" style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const place = places[item.index] as PlaceOf;
            const on = picked.includes(place.name);
            const [east, north] = place.at as [number, number, number];
            return (
              <li key={item.key} className="absolute inset-x-0" style={{ top: item.start - ROW, height: ROW }}>
                <button
                  type="button"
                  aria-pressed={on}
                  onClick={(event) => pick(event, item.index)}
                  className={`flex h-full w-full cursor-pointer items-center gap-2 border-l-[3px] px-2 text-left text-sm ${
                    on ? "border-chalk bg-chalk-wash" : "border-transparent hover:bg-bench"
                  }`}
                >
                  <span
                    className={`min-w-0 flex-1 truncate ${place.stands === false ? "text-pencil line-through" : ""}`}
                  >
                    {place.name}
                  </span>
                  <span className="shrink-0 text-pencil text-xs">{placeWords(place)}</span>
                  <span className="figure shrink-0 text-pencil text-xs" title="East and north of its base point">
                    {formatLength(east, units)}, {formatLength(north, units)}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      </div>
      {chosen.length > 0 ? (
        <ChosenPlaces key={chosen.map((one) => one.id).join()} typical={typical} chosen={chosen} />
      ) : (
        <p className="mt-1 text-pencil text-xs">Click one, here or in the drawing, to change it.</p>
      )}
    </>
  );
}

/** What is other about a place, in a word or two. */
function placeWords(place: PlaceOf): string {
  return [
    place.stands === false ? "left out" : "",
    place.mirrored ? "mirrored" : "",
    place.own?.length ? "own measure" : "",
  ]
    .filter(Boolean)
    .join(", ");
}

function ChosenPlaces({ typical, chosen }: { typical: Typical; chosen: PlaceOf[] }) {
  const { edit } = useChanges();
  const ids = chosen.map((place) => place.id as string);
  const one = chosen.length === 1 ? chosen[0] : undefined;
  const change = (changes: object) => edit([{ kind: "set_places", typical: typical.id, places: ids, changes }]);
  const rename = async (name: string): Promise<Problem | null> => {
    const problem = await change({ name });
    // It stays picked under its new name.
    if (!problem) useWindow.getState().set({ places: [name.trim()] });
    return problem;
  };
  const at = (axis: number) => shared(chosen, (place) => (place.at as number[])[axis] ?? 0);
  return (
    <div className="mt-2 border-chalk border-l-[3px] pl-3">
      {one ? (
        <TextField label="Name of the place" value={one.name} take={rename} small />
      ) : (
        <p className="font-medium text-sm">{count(chosen.length, "place")}</p>
      )}
      {(["East", "North", "Height"] as const).map((name, axis) => (
        <LengthField
          key={name}
          label={name}
          mm={at(axis)}
          take={(mm) => change({ at: [0, 1, 2].map((i) => (i === axis ? mm : null)) })}
        />
      ))}
      <AngleField
        label="Turned, anticlockwise"
        degrees={shared(chosen, (place) => place.turn ?? 0)}
        take={(turn) => change({ turn })}
      />
      <Tick
        label="Mirrored there"
        checked={chosen.every((place) => place.mirrored)}
        set={(mirrored) => change({ mirrored })}
      />
      <Tick
        label="Left out"
        checked={chosen.every((place) => place.stands === false)}
        set={(out) => change({ stands: !out })}
      />
      <OwnMeasures typical={typical} chosen={chosen} change={change} />
      <p className="mt-2 flex flex-wrap gap-x-3 gap-y-0.5 text-sm">
        <Words
          title="What stands there becomes lines, runs and rows of its own, that no longer follow"
          onClick={() => void edit([{ kind: "cut_loose", typical: typical.id, places: ids }])}
        >
          Cut loose
        </Words>
        <Words onClick={() => void edit([{ kind: "remove_places", typical: typical.id, places: ids }])}>
          Take {chosen.length > 1 ? "them" : "it"} out
        </Words>
      </p>
    </div>
  );
}

/** Measures of the job that are other in a place: a wider window, whose trim follows. */
function OwnMeasures({
  typical,
  chosen,
  change,
}: {
  typical: Typical;
  chosen: PlaceOf[];
  change: (changes: object) => Promise<Problem | null>;
}) {
  const shown = useShown();
  const own = shared(chosen, (place) => place.own ?? []) ?? [];
  const measures = measuresOf(shown, typical);
  const alike = (a: string, b: string) =>
    a.toLowerCase().replace(/[\s_]+/g, " ") === b.toLowerCase().replace(/[\s_]+/g, " ");
  const free = measures.filter((measure) => !own.some((one) => alike(one.name, measure.name)));
  return (
    <>
      {own.map((one) => (
        <div key={one.name}>
          <LengthField
            label={`${one.name}, there`}
            mm={one.length}
            take={(length) => change({ own: own.map((other) => (other === one ? { ...one, length } : other)) })}
          />
          <p className="text-right text-sm">
            <Words onClick={() => void change({ own: own.filter((other) => other !== one) })}>As elsewhere again</Words>
          </p>
        </div>
      ))}
      {free.length > 0 && <NewOwn own={own} names={free.map((measure) => measure.name)} change={change} />}
      {!measures.length && (
        <p className="text-pencil text-xs">
          Where lengths of its lines follow a measure of the job, a place can have another: a wider window, say.
        </p>
      )}
    </>
  );
}

/** The measures that what stands in a typical's places hangs on: those named in its texts, and in turn in the texts of these. */
function measuresOf({ job }: JobShown, typical: Typical) {
  const lines = (job.lines ?? []).filter((line) => typical.lines.includes(line.id));
  const on = [...(job.runs ?? []), ...(job.rows ?? [])].filter((thing) => typical.lines.includes(thing.line));
  const things = new Set<string>([...typical.lines, ...on.map((thing) => thing.id)]);
  for (const thing of on) if ("section" in thing) things.add(thing.section);
  const walks = lines.flatMap((line) => (line.made?.kind === "walk" ? [line.made.text] : []));
  let texts = [...(job.formulas ?? []).filter((one) => things.has(one.thing)).map((one) => one.text), ...walks];
  const found = new Set<string>();
  const plain = (words: string) => words.toLowerCase().replace(/[\s_]+/g, " ");
  while (texts.length) {
    const named = (job.measures ?? []).filter(
      (measure) => !found.has(measure.name) && texts.some((text) => plain(text).includes(plain(measure.name))),
    );
    for (const measure of named) found.add(measure.name);
    texts = named.map((measure) => measure.text);
  }
  return (job.measures ?? []).filter((measure) => found.has(measure.name));
}

function NewOwn({
  own,
  names,
  change,
}: {
  own: { name: string; length: number }[];
  names: string[];
  change: (changes: object) => Promise<Problem | null>;
}) {
  const { set, measure } = useOwnChoice(names);
  return (
    <>
      <Question>A measure of its own</Question>
      {names.length > 1 && (
        <div className="mb-1">
          <Pick
            label="Measure"
            value={measure}
            ways={names.map((name): [string, string] => [name, name])}
            choose={set}
          />
        </div>
      )}
      <LengthField
        label={names.length > 1 ? "is there" : `${names[0]} is there`}
        mm={null}
        placeholder="as elsewhere"
        take={(length) => change({ own: [...own, { name: measure, length }] })}
      />
    </>
  );
}

function useOwnChoice(names: string[]) {
  const [chosen, set] = useState(names[0] ?? "");
  return { measure: names.includes(chosen) ? chosen : (names[0] ?? ""), set };
}
