/** What mends a check: the words for it, and the edit that does it. */
import type { CheckFigures, Edit, JobShown } from "../api/client";
import { runFigures } from "../window/things";

export type Mend = CheckFigures["mends"][number];

export const MENDS: Record<Mend, string> = {
  members: "Make a second section",
  turned: "Turn the section",
  transition: "Put a piece in the corner",
  squared: "Cut the points off square",
  spread: "Spread it along the line",
  curved: "Cut the true curve",
};

const CORNERS: Partial<Record<Mend, object>> = {
  members: { kind: "mitre", raked: "members" },
  turned: { kind: "mitre", raked: "turned" },
  transition: { kind: "transition" },
  squared: { kind: "squared" },
  curved: { kind: "mitre", beside_curves: "true" },
};

/** The edit that mends a check; nothing where the corner it is at is no point of the line, as that of a rounding is not. */
export function mending(shown: JobShown, check: CheckFigures, mend: Mend): Edit | null {
  if (mend === "spread") {
    const line = shown.job.runs?.find((run) => run.id === check.thing)?.line;
    return line ? ({ kind: "set_line", line, changes: { spread: true } } as Edit) : null;
  }
  const corner = runFigures(shown, check.thing)?.corners.find(
    (one) => Math.abs(one.chainage - check.chainage) < 0.01 && one.vertex !== null,
  );
  if (!corner) return null;
  return { kind: "set_corners", run: check.thing, points: [corner.vertex], changes: CORNERS[mend] } as Edit;
}
