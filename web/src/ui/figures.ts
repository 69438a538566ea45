/** Lengths and angles as the job shows them. The rules are those of the core's `format_length`; a test holds both together. */
import type { Sentence, Units } from "../api/client";

const INCH = 25.4;

function roundHalfAway(value: number): number {
  return Math.sign(value) * Math.floor(Math.abs(value) + 0.5 + 1e-9) + 0;
}

export function formatLength(mm: number, units: Units): string {
  const fineness = units.fineness ?? 1;
  if (units.system === "ft-in") return feetAndInches(mm, fineness);
  const value = roundHalfAway(mm / fineness) * fineness;
  const decimals = fineness >= 1 ? 0 : 1;
  if (units.system === "m") return (value / 1000 + 0).toFixed(decimals + 3);
  return grouped((value + 0).toFixed(decimals));
}

export function grouped(text: string): string {
  const [whole = "", part] = text.split(".");
  const set = whole.replace(/\B(?=(\d{3})+(?!\d))/g, "\u2009");
  return part === undefined ? set : `${set}.${part}`;
}

function feetAndInches(mm: number, fineness: number): string {
  const parts = Math.round(1 / fineness);
  let steps = roundHalfAway((mm / INCH) * parts);
  const sign = steps < 0 ? "-" : "";
  steps = Math.abs(steps);
  const feet = Math.floor(steps / (12 * parts));
  steps %= 12 * parts;
  const inches = Math.floor(steps / parts);
  const over = steps % parts;
  let fraction = "";
  if (over) {
    const shrink = gcd(over, parts);
    fraction = `${over / shrink}/${parts / shrink}`;
  }
  const shown = over && inches ? `${inches}-${fraction}"` : `${fraction || inches}"`;
  return feet ? `${sign}${feet}' ${shown}` : `${sign}${shown}`;
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b);
}

/** A length for a field: every digit that matters, in the job's unit. */
export function fieldLength(mm: number, units: Units): string {
  if (units.system === "ft-in") return feetAndInches(mm, Math.min(units.fineness ?? 1, 1 / 32));
  const value = units.system === "m" ? mm / 1000 : mm;
  return String(Number(value.toFixed(units.system === "m" ? 6 : 3)) + 0);
}

/** A sentence with its lengths in the job's units. The rule is the core's `in_units`; a test holds both together. */
export function writeSentence(sentence: Sentence, units: Units): string {
  return sentence.map((part) => (typeof part === "string" ? part : written(part.mm, part.places, units))).join("");
}

function written(mm: number, places: number, units: Units): string {
  if (units.system === "ft-in") {
    // What is less than the finest step is written in decimals, not as nothing.
    return mm === 0 || Math.abs(mm) >= INCH / 32 ? feetAndInches(mm, 1 / 32) : `${decimal(mm / INCH, 4)} in`;
  }
  return units.system === "m" ? `${decimal(mm / 1000, places + 3)} m` : `${decimal(mm, places)} mm`;
}

function decimal(value: number, places: number): string {
  return String(Number(value.toFixed(places)) + 0);
}

/** An area in the job's units: square millimetres, or square inches. */
export function formatArea(mm2: number, units: Units): string {
  if (units.system === "ft-in") return `${grouped((mm2 / (INCH * INCH)).toFixed(2))} in²`;
  return `${grouped(String(Math.round(mm2)))} mm²`;
}

/** A power of a length as a section's properties are written: in centimetres, as steel tables do, or inches. */
export function formatPower(value: number, power: 3 | 4, units: Units): string {
  const [size, word] = units.system === "ft-in" ? [INCH, "in"] : [10, "cm"];
  return `${significant(value / size ** power)} ${word}${power === 3 ? "³" : "⁴"}`;
}

const POUND = 0.45359237;

/** A weight of pieces, kilograms or pounds, without its unit. */
export function formatMass(kilograms: number, units: Units): string {
  return grouped((units.system === "ft-in" ? kilograms / POUND : kilograms).toFixed(2));
}

/** An area to be painted, square metres or square feet, without its unit; given in mm². */
export function formatPainted(mm2: number, units: Units): string {
  return grouped((mm2 / areaOfUnit(units)).toFixed(units.system === "ft-in" ? 2 : 3));
}

/** How large the unit of areas is, mm². */
export const areaOfUnit = (units: Units): number => (units.system === "ft-in" ? (12 * INCH) ** 2 : 1e6);

export const massUnit = (units: Units): string => (units.system === "ft-in" ? "lb" : "kg");
export const areaUnit = (units: Units): string => (units.system === "ft-in" ? "ft²" : "m²");

/** A weight to a length, kg/m or pounds to the foot. */
export function formatWeight(kilograms: number, units: Units): string {
  return units.system === "ft-in"
    ? `${significant((kilograms / POUND) * 12 * (INCH / 1000))} lb/ft`
    : `${significant(kilograms)} kg/m`;
}

/** A face to a length, m²/m or square feet to the foot. */
export function formatFace(metres: number, units: Units): string {
  return units.system === "ft-in"
    ? `${significant((metres * 1000) / (12 * INCH))} ft²/ft`
    : `${significant(metres)} m²/m`;
}

/** Three digits that matter; whole numbers are written whole. */
function significant(value: number): string {
  if (value === 0) return "0";
  const places = Math.max(0, 2 - Math.floor(Math.log10(Math.abs(value))));
  return grouped((value + 0).toFixed(Math.min(places, 6)));
}

export function unitWord(units: Units): string {
  return { mm: "mm", m: "m", "ft-in": "ft-in" }[units.system ?? "mm"];
}

export function formatAngle(degrees: number): string {
  const rounded = Math.round(degrees * 10) / 10 + 0;
  return `${Number.isInteger(rounded) ? rounded : rounded.toFixed(1)}°`;
}

export function count(number: number, one: string, many = `${one}s`): string {
  return `${grouped(String(number))} ${number === 1 ? one : many}`;
}

/** A size such as 18 × 145 or ⌀ 48.3 × 3.2, in the job's units but never rounded past a tenth. */
export function sizeWords(section: { width: number; height: number; wall?: number | null }, units: Units): string {
  const fine: Units = units.system === "ft-in" ? units : { ...units, fineness: 0.1 };
  const one = (mm: number) => formatLength(mm, fine).replace(/\.0$/, "");
  const wall = section.wall ? ` × ${one(section.wall)}` : "";
  return `${one(section.width)} × ${one(section.height)}${wall}`;
}
