/** What the job sheet lists under each step: found by name, kept to what was asked for, and in groups. */
import type { JobShown, Line } from "../api/client";
import type { Group } from "../api/groups";
import { byId, groupIn } from "../window/groups";
import { checksOf, lineById, rowById, runById, sectionById } from "../window/things";

/** What things are put together by: nothing, a group that somebody put them in, or a rule. */
export type By = "none" | "hand" | "layer" | "storey" | "name" | "section";
/** What the list is kept to; the last is one section, by its id. */
export type Only = "all" | "faults" | "open" | "closed" | "curved" | "bare" | `section:${string}`;

export interface Asked {
  words: string;
  only: Only;
  by: By;
}

export type Entry =
  | { kind: "group"; key: string; name: string; ids: string[] }
  | { kind: "thing"; key: string; id: string; of: Group; in: string };

export interface Listed {
  entries: Entry[];
  /** All that was found, folded away or not, in the order of the list. */
  ids: string[];
  /** How many there are, found or not. */
  all: number;
}

export type StepName = "lines" | "sections" | "runs";
type Thing = { id: string; name: string; group?: string };

/** The groups of things that stand under each step. */
const GROUPS: Record<StepName, [Group, ...Group[]]> = {
  lines: ["lines", "typicals", "pictures"],
  sections: ["sections"],
  runs: ["runs", "rows"],
};

const NO_GROUP = "Not in a group";
const order = new Intl.Collator("en-GB", { numeric: true, sensitivity: "base" });

/** What a step lists. `folded` are the keys of groups whose things are not shown; `tell` writes a height. */
export function listed(
  shown: JobShown,
  step: StepName,
  asked: Asked,
  folded: ReadonlySet<string>,
  tell: (mm: number) => string,
): Listed {
  const { job } = shown;
  const groups = GROUPS[step];
  // A picture on the desk belongs to what is drawn over it.
  const things: Thing[] = groups
    .flatMap((group): Thing[] => [...(job[group] ?? [])])
    .filter((thing) => !("on" in thing && thing.on));
  const found = isAsking(asked) ? things.filter(finder(shown, asked)) : things;
  const entryOf = (thing: Thing, key: string): Entry => ({
    kind: "thing",
    key: thing.id,
    id: thing.id,
    of: groups.slice(1).find((group) => byId<Thing>(job[group], thing.id)) ?? groups[0],
    in: key,
  });
  if (asked.by === "none")
    return { entries: found.map((one) => entryOf(one, "")), ids: found.map((one) => one.id), all: things.length };
  const nameOf = namer(shown, asked.by, tell);
  const together = new Map<string, Thing[]>();
  for (const thing of found) {
    const name = nameOf(thing.id, thing);
    const known = together.get(name);
    if (known) known.push(thing);
    else together.set(name, [thing]);
  }
  const names = [...together.keys()].sort((a, b) => (a === NO_GROUP ? 1 : b === NO_GROUP ? -1 : order.compare(a, b)));
  const entries: Entry[] = [];
  for (const name of names) {
    const of = together.get(name) ?? [];
    const key = `${step}/${asked.by}/${name}`;
    entries.push({ kind: "group", key, name, ids: of.map((one) => one.id) });
    if (!folded.has(key)) entries.push(...of.map((one) => entryOf(one, key)));
  }
  const ids = names.flatMap((name) => (together.get(name) ?? []).map((one) => one.id));
  return { entries, ids, all: things.length };
}

export function isAsking({ words, only }: Asked): boolean {
  return words.trim() !== "" || only !== "all";
}

/** Tell which things are asked for: every word stands in their name, group, layer or section, in any order. */
function finder(shown: JobShown, { words, only }: Asked): (thing: Thing) => boolean {
  const wanted = words.toLocaleLowerCase("en").split(/\s+/).filter(Boolean);
  const keeps = keeper(shown, only);
  return (thing) => {
    if (!keeps(thing.id)) return false;
    if (!wanted.length) return true;
    const line = lineById(shown, thing.id);
    const section = sectionById(shown, runById(shown, thing.id)?.section);
    const text = [thing.name, thing.group, line?.source?.layer, section?.name].join(" ").toLocaleLowerCase("en");
    return wanted.every((word) => text.includes(word));
  };
}

function keeper(shown: JobShown, only: Only): (id: string) => boolean {
  const { job } = shown;
  if (only === "all") return () => true;
  if (only === "faults") {
    const wrong = new Set(shown.lines.filter((line) => line.faults.length).map((line) => line.id));
    return (id) => wrong.has(id) || checksOf(shown, id).length > 0;
  }
  if (only === "bare") {
    const taken = new Set([...(job.runs ?? []), ...(job.rows ?? [])].map((one) => one.line));
    return (id) => groupIn(job, id) === "lines" && !taken.has(id);
  }
  if (only.startsWith("section:")) {
    const section = only.slice("section:".length);
    const runs = (job.runs ?? []).filter((run) => run.section === section);
    const kept = new Set([section, ...runs.flatMap((run) => [run.id, run.line])]);
    return (id) => kept.has(id);
  }
  const is = (line: Line) =>
    only === "open" ? !line.closed : only === "closed" ? line.closed : line.legs.some((leg) => leg.kind !== "straight");
  return (id) => {
    const line = lineById(shown, id) ?? lineUnder(shown, id);
    return line !== undefined && is(line);
  };
}

/** The line that a run or a row stands on. */
function lineUnder(shown: JobShown, id: string): Line | undefined {
  const one = runById(shown, id) ?? rowById(shown, id);
  return lineById(shown, one?.line);
}

function namer(shown: JobShown, by: By, tell: (mm: number) => string): (id: string, thing: Thing) => string {
  if (by === "name") return (_, thing) => family(thing.name);
  if (by === "section") {
    const names = new Map<string, Set<string>>();
    for (const run of shown.job.runs ?? []) {
      const name = sectionById(shown, run.section)?.name ?? "";
      for (const id of [run.id, run.line]) names.set(id, (names.get(id) ?? new Set()).add(name));
      names.set(run.section, new Set([name]));
    }
    return (id) => [...(names.get(id) ?? [])].sort(order.compare).join(", ") || "No section";
  }
  if (by === "storey") {
    const storeys = storeysOf(shown, tell);
    return (id) => storeys.get((lineById(shown, id) ?? lineUnder(shown, id))?.id ?? "") ?? NO_GROUP;
  }
  if (by === "layer") return (id) => (lineById(shown, id) ?? lineUnder(shown, id))?.source?.layer || "No layer";
  return (id, thing) => thing.group || lineUnder(shown, id)?.group || NO_GROUP;
}

/** The part of a name that its fellows share: "Column 12" and "Column 13" are columns, "Skirting, Hall" a skirting. */
export function family(name: string): string {
  const before = name.split(/[,·:]/)[0] ?? name;
  return before.replace(/[\s\-_.]*\d+[a-z]?\s*$/i, "").trim() || name;
}

/** Lowest heights that lie further apart than this, mm, are of two storeys. */
const STOREY = 1500;

/** The storey each line is of: lines whose lowest points follow one another closely, upward, reported by how high those are. */
function storeysOf(shown: JobShown, tell: (mm: number) => string): Map<string, string> {
  const lows = (shown.job.lines ?? []).map((line) => ({
    id: line.id,
    low: line.legs.reduce((low, leg) => Math.min(low, leg.to[2] ?? 0), line.start[2] ?? 0),
  }));
  lows.sort((a, b) => a.low - b.low);
  const found = new Map<string, string>();
  for (let from = 0; from < lows.length; ) {
    let to = from + 1;
    while (to < lows.length && (lows[to]?.low ?? 0) - (lows[to - 1]?.low ?? 0) < STOREY) to++;
    const [low, high] = [tell(lows[from]?.low ?? 0), tell(lows[to - 1]?.low ?? 0)];
    const name = low === high ? `Level ${low}` : `Level ${low} to ${high}`;
    for (const one of lows.slice(from, to)) found.set(one.id, name);
    from = to;
  }
  return found;
}

/** The ids from one to another in a list, both taken in; the other alone where the one is not in it. */
export function reach(ids: readonly string[], from: string | undefined, to: string): string[] {
  const [a, b] = [from === undefined ? -1 : ids.indexOf(from), ids.indexOf(to)];
  if (a < 0 || b < 0) return [to];
  // The one it began from stays first, for further reaches from it.
  return a <= b ? ids.slice(a, b + 1) : ids.slice(b, a + 1).reverse();
}
