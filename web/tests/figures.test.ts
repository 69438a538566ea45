/** Properties of sections in the units of the job. */
import { expect, test } from "vitest";
import { formatFace, formatPower, formatWeight } from "../src/ui/figures";

const metric = { system: "mm" as const, fineness: 1 };
const feet = { system: "ft-in" as const, fineness: 1 / 16 };

test("powers of lengths have three digits that matter, in centimetres or inches", () => {
  expect(formatPower(115_900, 4, metric)).toBe("11.6 cm⁴");
  expect(formatPower(4_800, 3, metric)).toBe("4.80 cm³");
  expect(formatPower(124_650_000, 4, metric)).toBe("12\u2009465 cm⁴");
  expect(formatPower(0, 4, metric)).toBe("0 cm⁴");
  // One inch is 25.4 mm exactly.
  expect(formatPower(25.4 ** 4 * 2, 4, feet)).toBe("2.00 in⁴");
});

test("weights and faces to a length", () => {
  expect(formatWeight(3.559, metric)).toBe("3.56 kg/m");
  // A pound is 0.45359237 kg exactly: 1 kg/m is 0.672 lb/ft.
  expect(formatWeight(1, feet)).toBe("0.672 lb/ft");
  expect(formatFace(0.2888, metric)).toBe("0.289 m²/m");
  expect(formatFace(0.3048, feet)).toBe("1.00 ft²/ft");
});
