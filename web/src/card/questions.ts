/** The questions that are asked of more than one thing, or that checks point at. */
import type { CheckFigures } from "../api/client";

export const CORNERS = "How are the corners made?";
export const ENDS = "How do the ends finish?";
export const CURVES = "How are the curves made?";
export const JOINTS = "How are long pieces made?";
export const FACING = "Which side does it face?";
export const STANDS = "How do sections stand on it?";
export const SPACING = "How far apart?";
export const AT_ENDS = "What happens at ends and corners?";

/** The question in which a check is mended; kinds that are mended elsewhere are left out. */
export const QUESTION_OF: Partial<Record<CheckFigures["kind"], string>> = {
  uncoped: CORNERS,
  needle: CORNERS,
  mismatch: CORNERS,
  overlap: CORNERS,
  "small-block": CORNERS,
  unfinished: ENDS,
  uncurved: CURVES,
  pinched: CURVES,
  "no-joints": JOINTS,
  "too-long": JOINTS,
  "too-short": JOINTS,
  twisted: STANDS,
  "no-room": AT_ENDS,
};
