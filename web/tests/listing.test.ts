import { expect, test } from "vitest";
import { type Asked, family, listed, reach } from "../src/jobsheet/listing";
import { jobOf, lineOf } from "./making";

const job = jobOf({
  lines: [
    lineOf(
      "L1",
      [
        [0, 0, 0],
        [5000, 0, 0],
      ],
      { name: "Column 2", source: { file: "a.dxf", layer: "Columns" } as never, group: "North" },
    ),
    lineOf(
      "L2",
      [
        [0, 0, 300],
        [5000, 0, 300],
        [0, 900, 300],
      ],
      { name: "Column 10", closed: true },
    ),
    lineOf(
      "L3",
      [
        [0, 0, 3600],
        [5000, 0, 6800],
      ],
      { name: "Ramp", group: "North" },
    ),
  ],
  sections: [{ id: "S4", name: "Skirting", width: 18, height: 95 }],
  runs: [{ id: "R5", name: "Skirting, hall", line: "L1", section: "S4" }],
  rows: [{ id: "I6", name: "Posts", line: "L3" }],
});
const all: Asked = { words: "", only: "all", by: "none" };
const ids = (step: "lines" | "sections" | "runs", asked: Partial<Asked>, folded: string[] = []) =>
  listed(job, step, { ...all, ...asked }, new Set(folded), (mm) => String(Math.round(mm)));
const groups = (step: "lines" | "runs", by: Asked["by"]) =>
  ids(step, { by }).entries.flatMap((one) => (one.kind === "group" ? [[one.name, one.ids.join()]] : []));

test("every word of what is looked for stands in the name, layer, group or section, in any order", () => {
  expect(ids("lines", { words: "2 col" }).ids).toEqual(["L1"]);
  expect(ids("lines", { words: "NORTH" }).ids).toEqual(["L1", "L3"]);
  expect(ids("runs", { words: "skirting" }).ids).toEqual(["R5"]);
  expect(ids("lines", { words: "column ramp" }).ids).toEqual([]);
  expect(ids("lines", {}).ids).toEqual(["L1", "L2", "L3"]);
});

test("the list is kept to lines of a shape, to those that nothing stands on, to a section with its runs and lines", () => {
  expect(ids("lines", { only: "closed" }).ids).toEqual(["L2"]);
  expect(ids("lines", { only: "bare" }).ids).toEqual(["L2"]);
  expect(ids("lines", { only: "section:S4" }).ids).toEqual(["L1"]);
  expect(ids("runs", { only: "section:S4" }).ids).toEqual(["R5"]);
  expect(ids("runs", { only: "open" }).ids).toEqual(["R5", "I6"]);
  expect(ids("lines", { only: "faults" }).ids).toEqual([]);
});

test("groups are by hand, layer, storey, name and section; runs and rows go with their line", () => {
  expect(groups("lines", "hand")).toEqual([
    ["North", "L1,L3"],
    ["Not in a group", "L2"],
  ]);
  expect(groups("runs", "hand")).toEqual([["North", "R5,I6"]]);
  expect(groups("lines", "layer")).toEqual([
    ["Columns", "L1"],
    ["No layer", "L2,L3"],
  ]);
  expect(groups("lines", "storey")).toEqual([
    ["Level 0 to 300", "L1,L2"],
    ["Level 3600", "L3"],
  ]);
  expect(groups("lines", "name")).toEqual([
    ["Column", "L1,L2"],
    ["Ramp", "L3"],
  ]);
  expect(groups("lines", "section")).toEqual([
    ["No section", "L2,L3"],
    ["Skirting", "L1"],
  ]);
});

test("what is folded is not listed, but still found", () => {
  const found = ids("lines", { by: "hand" }, ["lines/hand/North"]);
  expect(found.entries.map((one) => one.key)).toEqual(["lines/hand/North", "lines/hand/Not in a group", "L2"]);
  expect(found.ids).toEqual(["L1", "L3", "L2"]);
});

test("a name's family is what its fellows share", () => {
  expect(["Column 12", "Picture rail, hall", "LINE-003", "7", "Door 2b", "Quay edge"].map(family)).toEqual([
    "Column",
    "Picture rail",
    "LINE",
    "7",
    "Door",
    "Quay edge",
  ]);
});

test("a reach goes from where it began to where it was asked, either way", () => {
  expect(reach(["a", "b", "c", "d"], "b", "d")).toEqual(["b", "c", "d"]);
  expect(reach(["a", "b", "c", "d"], "d", "b")).toEqual(["d", "c", "b"]);
  expect(reach(["a", "b"], undefined, "b")).toEqual(["b"]);
});
