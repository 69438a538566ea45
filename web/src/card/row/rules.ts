/** The spacing rules of rows, one entry each: what they are called, and the figure each of them is given by. */
import type { Row } from "../../api/client";

type Rule = Row["spacing"]["rule"];

export interface SpacingRule {
  kind: Rule["kind"];
  words: string;
  /** The rule's own figure: its field, what it is called, and whether it is a number of items instead of a length. */
  field: string;
  label: string;
  counts?: true;
  /** Whether its bays fill a stretch, so that those next to its ends can be of another size. */
  fills?: true;
  /** Whether it can be counted from the start, from the end or centred. */
  counted?: true;
}

export const rules: SpacingRule[] = [
  { kind: "equal-bays", words: "Equal bays, no wider than", field: "most", label: "No wider than", fills: true },
  { kind: "nearest-bays", words: "Equal bays, nearest to", field: "near", label: "Nearest to", fills: true },
  { kind: "fixed-centres", words: "Fixed centres", field: "centres", label: "Centres", counted: true },
  { kind: "set-number", words: "A set number", field: "number", label: "Number", counts: true, fills: true },
  { kind: "clear-gap", words: "Clear gaps, no wider than", field: "gap", label: "Clear gap" },
];

export const measures: [NonNullable<Row["spacing"]["measured"]>, string][] = [
  ["along", "Along the line"],
  ["plan", "On plan"],
  ["chord", "Item to item"],
];

export function ruleOf(kind: string): SpacingRule {
  const found = rules.find((one) => one.kind === kind);
  if (!found) throw new Error(`there is no spacing rule ${kind}`);
  return found;
}

/** The figure that a rule is given by. */
export function figureOf(rule: Rule): number {
  return (rule as unknown as Record<string, number>)[ruleOf(rule.kind).field] ?? 0;
}
