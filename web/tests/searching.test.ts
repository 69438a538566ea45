/** Sections are found by words and by sizes, in any order. */
import { describe, expect, it } from "vitest";
import type { LibraryEntry } from "../src/api/client";
import { isFound } from "../src/sectiondesk/library/searching";

const tube = {
  family: "Steel tubes",
  standard: "EN 10219-2",
  section: { name: "Rectangular tube 60 × 40 × 3", width: 40, height: 60, wall: 3, material: "steel" },
} as LibraryEntry;

describe("a search of the library", () => {
  it.each(["tube", "TUBE steel", "60 × 40", "40x60 tube", "40,60", "10219", "tubes 3", "EN 10219", "", "  "])(
    "finds it by %j",
    (looked) => expect(isFound(tube, looked)).toBe(true),
  );
  it.each(["angle", "tube 50", "61", "102", "rail 60"])("does not by %j", (looked) =>
    expect(isFound(tube, looked)).toBe(false),
  );
});
