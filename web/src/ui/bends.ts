/** What a piece is bent to, in words. */
import type { PieceFigures, Units } from "../api/client";
import { formatAngle, formatLength } from "./figures";

export function bendWords(bends: PieceFigures["bends"], units: Units): string {
  const bent = bends.filter((bend) => bend.kind !== "straight");
  if (!bent.length) return "";
  const told = bent.slice(0, 3).map((bend) => {
    if (bend.radius !== null && bend.radius !== undefined)
      return `R ${formatLength(bend.radius, units)} through ${formatAngle(bend.turn)}`;
    return `${{ helix: "a helix", cord: "a cord" }[bend.kind] ?? "a curve"} of ${formatLength(bend.length, units)}`;
  });
  return `bent: ${told.join(", ")}${bent.length > 3 ? ` and ${bent.length - 3} more` : ""}`;
}
