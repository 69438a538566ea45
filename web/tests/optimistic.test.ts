/** Names are shown before the service has answered, and nothing else is. */
import { describe, expect, it } from "vitest";
import type { Edit } from "../src/api/client";
import { renamed } from "../src/window/optimistic";
import { jobOf, lineOf } from "./making";

const north = lineOf("L1", [
  [0, 0, 0],
  [3000, 0, 0],
]);
const shown = jobOf({ lines: [north, { ...north, id: "L2" }], runs: [{ id: "R3", name: "Skirting", line: "L1" }] });
const edits = (...some: object[]) => some as Edit[];

describe("a name that is on its way", () => {
  it("is the thing's at once, and all else is the very same", () => {
    const now = renamed(
      shown,
      edits(
        { kind: "set_line", line: "L2", changes: { name: " Quay " } },
        { kind: "set_run", run: "R3", changes: { name: "Plinth" } },
      ),
    );
    expect(now?.job.lines?.map((line) => line.name)).toEqual(["L1", "Quay"]);
    expect(now?.job.lines?.[0]).toBe(north);
    expect(now?.job.runs?.[0]).toMatchObject({ name: "Plinth", line: "L1" });
    expect(now?.job.sections).toBe(shown.job.sections);
    expect(shown.job.lines?.[1]?.name).toBe("L1");
  });

  it.each([
    ["another field", { kind: "set_line", line: "L1", changes: { frame: "carried" } }],
    ["a name and more", { kind: "set_line", line: "L1", changes: { name: "Quay", frame: "carried" } }],
    ["no name at all", { kind: "set_line", line: "L1", changes: { name: "  " } }],
    ["a name that is too long", { kind: "set_line", line: "L1", changes: { name: "x".repeat(121) } }],
    ["what is not there", { kind: "set_line", line: "L9", changes: { name: "Quay" } }],
    ["a part of a line", { kind: "set_opening", line: "L1", opening: "O5", changes: { name: "Door" } }],
    ["what is removed", { kind: "remove", ids: ["L1"] }],
  ])("is left to the service where there is %s", (_, edit) => {
    expect(renamed(shown, edits({ kind: "set_line", line: "L2", changes: { name: "Quay" } }, edit))).toBeNull();
  });

  it("is nothing where nothing is made", () => {
    expect(renamed(shown, [])).toBeNull();
  });
});
