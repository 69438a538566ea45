/** What the questions of runs are answered by, in few words; "various" where several runs differ. */
import type { JobShown, Run, Units } from "../../api/client";
import { formatAngle, formatLength, sizeWords } from "../../ui/figures";
import { lineById, sectionById } from "../../window/things";
import { shared } from "../shared";
import { datumWords } from "./datums";
import { CURVES_MADE, EXTERNAL, FINISHES, INTERNAL, JOINT_KINDS } from "./ways";

const VARIOUS = "various";

/** The words of a way among those that there are. */
const worded = (ways: readonly (readonly [string, string])[], way: string) =>
  ways.find(([one]) => one === way)?.[1] ?? way;

/** What all of them say, or that they differ. */
const alike = (runs: Run[], say: (run: Run) => string) => shared(runs, say) ?? VARIOUS;

export function sits(shown: JobShown, runs: Run[], units: Units): string {
  return alike(runs, (run) => {
    const { stand_off = 0, lift = 0, roll = 0, stand_off_of = "datum", lift_of = "datum" } = run.placing ?? {};
    const datum = run.placing?.datum ?? sectionById(shown, run.section)?.datum ?? { kind: "named", name: "back-foot" };
    const from = (part: string) => (part === "datum" ? "" : ` to its ${part}`);
    return [
      datum.kind === "point" ? "a typed point" : (datumWords[datum.name ?? "back-foot"] ?? datum.name),
      (stand_off !== 0 || stand_off_of !== "datum") && `${formatLength(stand_off, units)} out${from(stand_off_of)}`,
      (lift !== 0 || lift_of !== "datum") && `${formatLength(lift, units)} up${from(lift_of)}`,
      roll !== 0 && `rolled ${formatAngle(roll)}`,
    ]
      .filter(Boolean)
      .join("; ");
  });
}

const FACES = {
  left: "left",
  right: "right",
  toward: "to a point",
  room: "into the room",
  wall: "away from the wall",
} as const;

export function faces(runs: Run[]): string {
  return alike(runs, (run) => {
    const kind = run.placing?.facing?.kind ?? "right";
    return `${FACES[kind]}${run.placing?.hand === "left" ? "; mirrored" : ""}`;
  });
}

export function corners(runs: Run[]): string {
  return alike(runs, (run) => {
    const inside = worded(INTERNAL, run.corners?.kind ?? "mitre");
    const outside = worded(EXTERNAL, run.external?.kind ?? "mitre");
    const own = run.own_corners?.length ?? 0;
    return `${inside}${outside === inside ? "" : `; external ${outside}`}${own ? `; ${own} otherwise` : ""}`;
  });
}

export function ends(runs: Run[], open: boolean, broken: boolean): string {
  return alike(runs, (run) => {
    const say = (finish: Run["first_end"]) => worded(FINISHES, finish?.kind ?? "square");
    const [first, last, beside] = [say(run.first_end), say(run.last_end), say(run.opening_ends)];
    const own = first === last ? first : `${first}; ${last} at its end`;
    if (!open) return beside;
    return broken && beside !== own ? `${own}; ${beside} at openings` : own;
  });
}

export const curves = (runs: Run[]): string => alike(runs, (run) => worded(CURVES_MADE, run.curves?.kind ?? "bent"));

export function joints(runs: Run[], units: Units): string {
  return alike(runs, (run) => {
    if (!run.joints) return "in one length";
    const bars = run.joints.bars.map((bar) => formatLength(bar, units)).join(", ");
    return `${worded(JOINT_KINDS, run.joints.made ?? "butt")} joints, bars of ${bars}`;
  });
}

export const openings = (runs: Run[]): string =>
  alike(runs, (run) => (run.openings === "pass" ? "passes over them" : "breaks"));

export function cutFrom(shown: JobShown, runs: Run[], units: Units): string {
  return alike(runs, (run) => {
    const section = sectionById(shown, run.section);
    return section ? `${section.name} ${sizeWords(section, units)}${run.size ? `, ${run.size}` : ""}` : "";
  });
}

/** Whether some of the lines of runs are open, and some runs broken by openings or stretches. */
export function ended(shown: JobShown, runs: Run[]): { open: boolean; broken: boolean } {
  const lines = runs.map((run) => lineById(shown, run.line));
  return {
    open: lines.some((line) => line && !line.closed),
    broken: runs.some((run, at) => Boolean(run.stretches || (run.openings !== "pass" && lines[at]?.openings?.length))),
  };
}
