import { expect, test } from "vitest";
import { compareTags, entriesOf, notesOf, partsOf, type Wanted } from "../src/cutting/ordering";
import { jobOf, numbers } from "./making";

const row = (tags: string[], long: number, section = "S1", each: Record<string, number> = {}) =>
  ({
    tags,
    section,
    quantity: tags.length,
    long_point: long,
    short_point: long - 20,
    line_length: long - 10,
    pieces: [],
    places: Object.keys(each),
    each: Object.values(each),
  }) as never;
const job = {
  ...jobOf({
    sections: [
      { id: "S1", name: "Skirting" },
      { id: "S2", name: "Cornice" },
    ],
    runs: [
      { id: "R1", name: "Hall", section: "S1" },
      { id: "R2", name: "Office", section: "S2" },
      { id: "R3", name: "Stair", section: "S1" },
    ],
  }),
  cutting: {
    R1: [row(["A1", "A3"], 900), row(["A2"], 1200), row(["A10"], 300)],
    R2: [row(["B1"], 700, "S2")],
    R3: [row(["C1"], 1000)],
  },
  checked: { R2: [{ thing: "R2", severity: "warning" }] as never },
};
const all: Wanted = { words: "", only: "all", by: "run", sorted: { by: "tag", back: false } };
const tags = (wanted: Partial<Wanted>) =>
  partsOf(job, { ...all, ...wanted }).map((part) => `${part.id}: ${part.rows.map(({ row }) => row.tags[0]).join(" ")}`);

test("rows stand by run, section or all together, in the order of a column, either way", () => {
  expect(tags({})).toEqual(["R1: A1 A2 A10", "R2: B1", "R3: C1"]);
  expect(tags({ by: "section", sorted: { by: "long", back: false } })).toEqual(["S1: A2 C1 A1 A10", "S2: B1"]);
  expect(tags({ by: "none", sorted: { by: "short", back: true } })).toEqual([": A10 B1 A1 C1 A2"]);
  expect(tags({ sorted: { by: "quantity", back: false } })[0]).toBe("R1: A1 A2 A10");
});

test("rows are found by run, section or tag, and kept to a section or to what is wrong", () => {
  expect(tags({ words: "skirting stair" })).toEqual(["R3: C1"]);
  // A tag is found whole: A1 is not A10.
  expect(tags({ words: "a1" })).toEqual(["R1: A1"]);
  expect(tags({ words: "a3" })).toEqual(["R1: A1"]);
  expect(tags({ only: "section:S1", words: "hall" })).toEqual(["R1: A1 A2 A10"]);
  expect(tags({ only: "faults" })).toEqual(["R2: B1"]);
  expect(tags({ words: "nowhere" })).toEqual([]);
});

test("however it is shown, the same pieces and lengths are there, with a head to each part", () => {
  const next = numbers(11);
  const cutting = Object.fromEntries(
    ["R1", "R2", "R3"].map((run, r) => [
      run,
      Array.from({ length: 40 }, (_, i) =>
        row([`${"ABC"[r]}${i}`, `${"ABC"[r]}${100 + i}`], 50 + next() * 3000, r === 1 ? "S2" : "S1"),
      ),
    ]),
  );
  const many = { ...job, cutting };
  const sums = (["run", "section", "none"] as const).map((by) => {
    const parts = partsOf(many, { ...all, by, sorted: { by: "long", back: next() > 0.5 } });
    expect(entriesOf(parts)).toHaveLength(120 + parts.length - 1);
    return [
      parts.reduce((sum, part) => sum + part.pieces, 0),
      Math.round(parts.reduce((sum, part) => sum + part.bar, 0)),
    ];
  });
  expect(new Set(sums.map(String)).size).toBe(1);
  expect(sums[0]?.[0]).toBe(240);
});

test("a second section has its own part, and what stands in places is listed in each", () => {
  const cutting = {
    R1: [row(["A1"], 900), row(["A2"], 800, "S2")],
    R2: [row(["B1", "B2"], 700, "S2", { W1: 2, W2: 3 })],
  };
  const parts = (by: Wanted["by"]) =>
    partsOf({ ...job, cutting }, { ...all, by }).map((part) => `${part.id}: ${part.pieces} ${part.rows.length}`);
  expect(parts("section")).toEqual(["S1: 1 1", "S2: 3 2"]);
  expect(parts("place")).toEqual([": 2 2", "W1: 2 1", "W2: 3 1"]);
});

test("notes are message with their tags where a row is of several pieces", () => {
  const run = { tag: "A", notes: [{ number: 3, text: "Plane the back" }] } as never;
  const one = { tags: ["A3"], pieces: [2] } as never;
  const two = { tags: ["A1", "A3-W2M"], pieces: [0, 2] } as never;
  expect(notesOf(run, one)).toEqual(["Plane the back"]);
  expect(notesOf(run, two)).toEqual(["A3: Plane the back"]);
  expect(notesOf(run, { tags: ["A30"], pieces: [29] } as never)).toEqual([]);
});

test("tags are in the order that they are given out", () => {
  expect(["B1", "AA2", "A10", "Z9", "A2", "AA1"].sort(compareTags)).toEqual(["A2", "A10", "B1", "Z9", "AA1", "AA2"]);
});
