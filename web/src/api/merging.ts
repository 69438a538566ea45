/** The job as a window holds it: the document and its figures, put together from what the service tells of it. */
import { acceptances } from "./acceptances";
import { GROUPS } from "./groups";
import type { components } from "./schema";

type Schemas = components["schemas"];
type Job = Schemas["Job"];
type JobChange = Schemas["JobChange"];
type FiguresPart = Schemas["FiguresPart"];

/** A job as it stands at a revision and all that follows from it, as far as that has come. */
export interface JobShown {
  id: string;
  revision: number;
  undo: string | null;
  redo: string | null;
  job: Job;
  lines: Schemas["LineFigures"][];
  sections: Schemas["SectionFigures"][];
  runs: Schemas["RunFigures"][];
  rows: Schemas["RowFigures"][];
  typicals: Schemas["TypicalFigures"][];
  /** The keys of the rows of the cutting list, by run, and of all that stands in several places by typical (`cutting/listed`). */
  cuts: Record<string, string>;
  /** Checks by run, row or typical; `checks` are all of them, faults first. */
  checked: Record<string, Schemas["CheckFigures"][]>;
  checks: Schemas["CheckFigures"][];
  /** Checks that somebody accepted, with the reason; they are in none of the others. */
  accepted: { check: Schemas["CheckFigures"]; reason: string; known: string }[];
  /** All checks as they are listed, accepted or not. */
  found: Record<string, Schemas["CheckFigures"][]>;
  totals: Schemas["Totals"];
  /** How many things are worked out, of how many, while figures are still to come. */
  coming: { done: number; of: number } | null;
}

type Figures = Pick<FiguresPart, "lines" | "sections" | "runs" | "rows" | "typicals" | "cuts" | "checks">;

/** A job just opened: the document, whose figures are to come. */
export function opened(text: Schemas["JobOpened"]): JobShown {
  const { job } = text;
  const of = [job.lines, job.sections, job.runs, job.rows, job.typicals].reduce(
    (sum, group) => sum + (group?.length ?? 0),
    0,
  );
  return {
    ...text,
    lines: [],
    sections: [],
    runs: [],
    rows: [],
    typicals: [],
    cuts: {},
    checked: {},
    checks: [],
    accepted: [],
    found: {},
    totals: {
      runs: {},
      sections: {},
      sizes: {},
      job: { pieces: 0, line_length: 0, bar: 0, from_stock: 0 },
      items: 0,
      fittings: [],
    },
    coming: { done: 0, of },
  };
}

/** The job with a part of its figures; what an edit has reported meanwhile is newer and stays. */
export function filled(shown: JobShown, part: FiguresPart): JobShown {
  const current = part.revision === shown.revision;
  const missing = <T extends { id: string }>(group: T[], known: { id: string }[]) => {
    if (current) return group;
    const there = new Set(known.map((one) => one.id));
    return group.filter((one) => !there.has(one.id));
  };
  const last = part.totals;
  const after = withFigures(shown, shown.job, {
    ...part,
    lines: missing(part.lines, shown.lines),
    sections: missing(part.sections, shown.sections),
    runs: missing(part.runs, shown.runs),
    rows: missing(part.rows, shown.rows),
    typicals: missing(part.typicals, shown.typicals),
    cuts: current ? part.cuts : { ...part.cuts, ...shown.cuts },
    checks: current ? part.checks : { ...part.checks, ...shown.found },
  });
  // An edit made meanwhile may have brought lines whose figures are still to come.
  const whole = last && (current || after.lines.length === (after.job.lines?.length ?? 0));
  return {
    ...after,
    totals: last && current ? last : last ? totalled(shown, { ...last, ...shown.totals }, last) : shown.totals,
    coming: whole ? null : { done: part.done, of: part.of },
  };
}

/** The job after a change of it. */
export function changed(shown: JobShown, change: JobChange): JobShown {
  const job = withDelta(shown.job, change.job);
  const after = withFigures({ ...shown, job }, job, change);
  return {
    ...after,
    id: change.id,
    revision: change.revision,
    undo: change.undo,
    redo: change.redo,
    coming: change.later ? { done: 0, of: job.lines?.length ?? 0 } : shown.coming,
    totals: totalled(after, change.totals, shown.totals),
  };
}

/** Totals with those of some runs and sections new; of what is gone or has nothing there are none. */
function totalled(shown: JobShown, now: Schemas["Totals"], before: Schemas["Totals"]): Schemas["Totals"] {
  const runs = new Set(shown.job.runs?.map((run) => run.id));
  return {
    ...now,
    runs: kept({ ...before.runs, ...now.runs }, (id) => runs.has(id)),
    sections: kept({ ...before.sections, ...now.sections }, (_, total) => total.pieces > 0),
    sizes: { ...before.sizes, ...now.sizes },
  };
}

function kept<T>(record: Record<string, T>, when: (id: string, value: T) => boolean): Record<string, T> {
  return Object.fromEntries(Object.entries(record).filter(([id, value]) => when(id, value)));
}

function withFigures(shown: JobShown, job: Job, now: Figures): JobShown {
  const runs = inOrder(job.runs, shown.runs, now.runs);
  const rows = inOrder(job.rows, shown.rows, now.rows);
  const there = new Set([...(job.runs ?? []), ...(job.rows ?? []), ...(job.typicals ?? [])].map((thing) => thing.id));
  const has = (id: string) => there.has(id);
  const found = kept({ ...shown.found, ...now.checks }, has);
  const acceptedAs = acceptances(job.accepted);
  const reasonOf = (check: Schemas["CheckFigures"]) => acceptedAs(check)?.reason;
  const checked = job.accepted?.length
    ? Object.fromEntries(
        Object.entries(found).map(([id, checks]) => [id, checks.filter((check) => reasonOf(check) === undefined)]),
      )
    : found;
  const all = [...there].flatMap((id) => checked[id] ?? []);
  const accepted = job.accepted?.length
    ? [...there]
        .flatMap((id) => found[id] ?? [])
        .flatMap((check) => {
          const one = acceptedAs(check);
          return one === undefined ? [] : [{ check, reason: one.reason, known: one.check }];
        })
    : [];
  return {
    ...shown,
    lines: inOrder(job.lines, shown.lines, now.lines),
    sections: inOrder(job.sections, shown.sections, now.sections),
    runs,
    rows,
    typicals: inOrder(job.typicals, shown.typicals, now.typicals),
    cuts: kept({ ...shown.cuts, ...now.cuts }, has),
    checked,
    found,
    accepted,
    checks: [...all.filter((one) => one.severity === "fault"), ...all.filter((one) => one.severity !== "fault")],
  };
}

/** Figures in the order of their things, the new ones in place of the old. */
function inOrder<T extends { id: string }>(things: readonly { id: string }[] | undefined, before: T[], now: T[]): T[] {
  if (!now.length && before.length === (things?.length ?? 0) && before.every((one, i) => one.id === things?.[i]?.id))
    return before;
  const fresh = new Map(now.map((one) => [one.id, one]));
  let old: Map<string, T> | undefined;
  const known = (id: string, i: number) => {
    // Most stand where they stood.
    if (before[i]?.id === id) return before[i];
    old ??= new Map(before.map((one) => [one.id, one]));
    return old.get(id);
  };
  return (things ?? []).flatMap((thing, i) => fresh.get(thing.id) ?? known(thing.id, i) ?? []);
}

function withDelta(job: Job, change: JobChange["job"]): Job {
  const after: Record<string, unknown> = { ...job, ...change };
  for (const group of GROUPS) {
    const part = change[group];
    if (!part) {
      after[group] = job[group];
      continue;
    }
    const things = new Map<string, { id: string }>((job[group] ?? []).map((thing) => [thing.id, thing]));
    for (const thing of part.put ?? []) things.set(thing.id, thing);
    for (const id of part.gone ?? []) things.delete(id);
    after[group] = part.order ? part.order.flatMap((id) => things.get(id) ?? []) : [...things.values()];
  }
  return after as unknown as Job;
}

const outlines = new WeakMap<readonly number[], [number, number][]>();

/** The points of an outline that came as second differences, in tenths of a millimetre. */
export function outlineOf(drawn: readonly number[]): [number, number][] {
  const known = outlines.get(drawn);
  if (known) return known;
  const points: [number, number][] = [];
  let [x, y, dx, dy] = [0, 0, 0, 0];
  for (let i = 0; i + 1 < drawn.length; i += 2) {
    dx += drawn[i] ?? 0;
    dy += drawn[i + 1] ?? 0;
    x += dx;
    y += dy;
    points.push([x / 10, y / 10]);
  }
  outlines.set(drawn, points);
  return points;
}

type Outlines = [number, number][][];

const footprints = new WeakMap<object, Outlines[]>();

/** The outlines of the pieces of a run on plan, which came one after another (`drawn_in_a_row`). */
export function footprintsOf(run: { footprints: readonly (readonly (readonly number[])[])[] }): Outlines[] {
  const known = footprints.get(run.footprints);
  if (known) return known;
  let [middleX, middleY] = [0, 0];
  const found = run.footprints.map((group) =>
    group.map((drawn) => {
      const points: [number, number][] = [];
      let [x, y, dx, dy] = [middleX + (drawn[0] ?? 0), middleY + (drawn[1] ?? 0), 0, 0];
      points.push([x, y]);
      for (let i = 2; i + 1 < drawn.length; i += 2) {
        // Of an outline of more than four points these are second differences.
        const [before, beforeY] = drawn.length > 8 ? [dx, dy] : [0, 0];
        dx = before + (drawn[i] ?? 0);
        dy = beforeY + (drawn[i + 1] ?? 0);
        x += dx;
        y += dy;
        points.push([x, y]);
      }
      [middleX, middleY] = points[Math.floor(points.length / 2) - 1] ?? [middleX, middleY];
      return points.map(([a, b]): [number, number] => [a / 10, b / 10]);
    }),
  );
  footprints.set(run.footprints, found);
  return found;
}
