/** The ways in which corners, ends, curves and joints of runs are made, as they are called. */
import type { Run } from "../../api/client";

export type CornerKind = NonNullable<Run["corners"]>["kind"] & string;
type FinishKind = NonNullable<Run["first_end"]>["kind"] & string;
type CurvesKind = NonNullable<Run["curves"]>["kind"] & string;
type JointKind = NonNullable<NonNullable<Run["joints"]>["made"]>;

export const EXTERNAL: [CornerKind, string][] = [
  ["mitre", "mitred"],
  ["butt", "butted"],
  ["gap", "cut back"],
  ["block", "at a block"],
  ["transition", "at an upright piece"],
  ["squared", "squared off"],
];

export const INTERNAL: [CornerKind, string][] = [
  EXTERNAL[0] as [CornerKind, string],
  ["cope", "coped"],
  ...EXTERNAL.slice(1),
];

export const FINISHES: [FinishKind, string][] = [
  ["square", "square"],
  ["angled", "at an angle"],
  ["plumb", "plumb"],
  ["level", "level"],
  ["returned", "returned"],
  ["capped", "capped"],
  ["rounded", "rounded"],
  ["posted", "into a post"],
  ["scribed", "scribed to a run"],
];

export const CURVES_MADE: [CurvesKind, string][] = [
  ["bent", "bent in one piece"],
  ["faceted", "of facets"],
  ["laminated", "laminated"],
  ["kerfed", "kerfed and bent"],
  ["sawn", "sawn from boards"],
];

export const JOINT_KINDS: [JointKind, string][] = [
  ["butt", "square"],
  ["scarf", "scarf"],
  ["plumb", "plumb"],
  ["finger", "finger"],
  ["socket", "socket"],
];
