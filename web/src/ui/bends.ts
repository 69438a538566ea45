/** What a piece is bent to, in words: side, angle and radius of each bend, and how far its plane is turned against the last. */
import type { PieceFigures, Units } from "../api/client";
import { formatAngle, formatLength } from "./figures";

const MOST = 4;

export function bendWords(bends: PieceFigures["bends"], units: Units): string {
  const bent = bends.filter((bend) => bend.kind !== "straight");
  if (!bent.length) return "";
  const told = bent.slice(0, MOST).map((bend) => {
    const kind = { helix: "helix ", cord: "cord ", curve: "curve ", through: "curve " }[bend.kind] ?? "";
    const radius = bend.radius == null ? "" : ` at R ${formatLength(bend.radius, units)}`;
    const plane = bend.plane ? `, plane turned ${formatAngle(bend.plane)}` : "";
    return `${kind}${bend.side} ${formatAngle(bend.turn)}${radius}${plane}`;
  });
  return `bends ${told.join("; then ")}${bent.length > MOST ? `; and ${bent.length - MOST} more` : ""}`;
}
