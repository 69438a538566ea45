import type { Run } from "../api/client";
import { RunCard } from "../card/run/RunCard";
import { count } from "../ui/figures";
import { checksOf } from "../window/things";
import type { KindShown } from "./kind";

export const runs: KindShown<Run> = {
  entry: (shown, run) => {
    const checks = checksOf(shown, run.id);
    const faults = checks.filter((check) => check.severity === "fault").length;
    const total = shown.totals.runs[run.id];
    const pieces = total ? count(total.pieces, "piece") : "…";
    return {
      name: run.name,
      figure: faults ? count(faults, "fault") : checks.length ? count(checks.length, "warning") : pieces,
      fault: faults > 0,
    };
  },
  card: (things, checks) => <RunCard runs={things} checks={checks} />,
  together: true,
};
