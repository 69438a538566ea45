/** What the cutting list shows and in which order: kept to some, in groups, sorted by a column. */
import type { CutRowFigures, Run } from "../api/client";
import { checksOf, sectionById } from "../window/things";
import { type Listed, rowsOf } from "./listed";

export type Grouped = "run" | "section" | "place" | "none";
export type Column = "tag" | "quantity" | "long" | "short" | "line" | "weight" | "painted";

export interface Wanted {
  words: string;
  /** `all`, `faults`, or a section by its id. */
  only: "all" | "faults" | `section:${string}`;
  by: Grouped;
  sorted: { by: Column; back: boolean };
}

/** A group of rows: a run, all runs of a section, or all that is cut. */
export interface Part {
  /** The id of the run or the section, or the name of the place; empty for all, and for what stands in no places. */
  id: string;
  of: Grouped;
  rows: { run: string; row: CutRowFigures }[];
  pieces: number;
  bar: number;
  line: number;
  /** Weight, kg, and painted area, mm². */
  weight: number;
  painted: number;
}

export type Entry = { part: Part; at: { run: string; row: CutRowFigures } | null };

/** Tags as the workshop counts them: A2 before A10, and Z before AA. */
export function compareTags(a: string, b: string): number {
  const [, first = "", one = "0"] = a.match(/^([A-Z]*)(\d*)/) ?? [];
  const [, second = "", two = "0"] = b.match(/^([A-Z]*)(\d*)/) ?? [];
  return first.length - second.length || (first < second ? -1 : first > second ? 1 : Number(one) - Number(two));
}

const figures: Record<Exclude<Column, "tag">, (row: CutRowFigures) => number> = {
  quantity: (row) => row.quantity,
  long: (row) => row.long_point,
  short: (row) => row.short_point,
  line: (row) => row.line_length,
  weight: (row) => row.weight,
  painted: (row) => row.painted,
};

/** The parts of the list, those without rows left out. */
export function partsOf(shown: Listed, wanted: Wanted): Part[] {
  const parts = new Map<string, Part>();
  const words = wanted.words.toLocaleLowerCase("en").split(/\s+/).filter(Boolean);
  for (const run of shown.job.runs ?? []) {
    if (wanted.only === "faults" && !checksOf(shown, run.id).length) continue;
    for (const all of rowsOf(shown, run.id)) {
      if (wanted.only.startsWith("section:") && wanted.only !== `section:${all.section}`) continue;
      const names = [run.name, sectionById(shown, all.section)?.name].join(" ").toLocaleLowerCase("en");
      for (const row of wanted.by === "place" ? inEach(all) : [all]) {
        const tags = [...row.tags, ...row.places].join(" ").toLocaleLowerCase("en").split(" ");
        if (!words.every((word) => names.includes(word) || tags.includes(word))) continue;
        const id = { run: run.id, section: row.section, place: row.places[0] ?? "", none: "" }[wanted.by];
        let part = parts.get(id);
        if (!part) {
          part = { id, of: wanted.by, rows: [], pieces: 0, bar: 0, line: 0, weight: 0, painted: 0 };
          parts.set(id, part);
        }
        part.rows.push({ run: run.id, row });
        part.pieces += row.quantity;
        part.bar += row.quantity * row.long_point;
        part.line += row.quantity * row.line_length;
        part.weight += row.quantity * row.weight;
        part.painted += row.quantity * row.painted;
      }
    }
  }
  const { by, back } = wanted.sorted;
  for (const part of parts.values()) {
    if (by === "tag") part.rows.sort((a, b) => compareTags(a.row.tags[0] ?? "", b.row.tags[0] ?? ""));
    else part.rows.sort((a, b) => figures[by](b.row) - figures[by](a.row));
    if (back) part.rows.reverse();
  }
  return [...parts.values()];
}

/** A row once for each of its places, with what stands there; itself where it stands in none. */
function inEach(row: CutRowFigures): CutRowFigures[] {
  if (!row.places.length) return [row];
  return row.places.flatMap((place, at) => {
    const quantity = row.each[at] ?? 0;
    return quantity ? [{ ...row, quantity, places: [place], each: [quantity] }] : [];
  });
}

/** What is noted of the pieces of a row: the text alone where the row is of one piece, else with the tag. */
export function notesOf(run: Run, row: CutRowFigures): string[] {
  const several = row.pieces.length > 1;
  return (run.notes ?? []).flatMap(({ number, text }) => {
    const tag = `${run.tag}${number}`;
    const there = row.tags.some((one) => one === tag || one === `${tag}M` || one.startsWith(`${tag}-`));
    return there ? [several ? `${tag}: ${text}` : text] : [];
  });
}

/** The parts as they stand one under the other: the head of each but the first, which is that of the sheet, and its rows. */
export function entriesOf(parts: Part[]): Entry[] {
  return parts.flatMap((part, index): Entry[] => [
    ...(index ? [{ part, at: null }] : []),
    ...part.rows.map((at) => ({ part, at })),
  ]);
}

/** Whether a run is in a part. */
export function holds(part: Part, run: string): boolean {
  if (part.of === "run") return part.id === run;
  return part.of === "none" || part.rows.some((one) => one.run === run);
}
