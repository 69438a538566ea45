/** What a piece is bent to, in words: angle, radius and side of each bend, and how far its plane is turned against the last. */
import type { CutRowFigures, PieceFigures, Units } from "../api/client";
import { formatAngle, formatLength } from "./figures";

const MOST = 4;

export function bendWords(bends: PieceFigures["bends"], units: Units): string {
  const bent = bends.filter((bend) => bend.kind !== "straight");
  if (!bent.length) return "";
  const text = bent.slice(0, MOST).map((bend) => {
    const kind =
      { helix: " as a helix", cord: " as a cord", curve: " in a curve", through: " in a curve" }[bend.kind] ?? "";
    const radius = bend.radius == null ? "" : ` at R ${formatLength(bend.radius, units)}`;
    const plane = bend.plane ? `, plane turned ${formatAngle(bend.plane)}` : "";
    return `${formatAngle(bend.turn)}${kind}${radius}, ${bend.side}${plane}`;
  });
  return `bends ${text.join("; then ")}${bent.length > MOST ? `; and ${bent.length - MOST} more` : ""}`;
}

/** What a piece whose curve is not bent in one is made of: its leaves, its kerfs, or the board that it is sawn from. */
export function curvatureWords(made: NonNullable<CutRowFigures["curvature"]>, units: Units): string {
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  if (made.board) return `from a board ${formatLength(made.board[0], units)} × ${formatLength(made.board[1], units)}`;
  if (made.kerfs.length) {
    const kerfs = made.kerfs.map(([number, centres]) => `${number} at ${formatLength(centres, fine)} laid flat`);
    return `kerfs ${formatLength(made.depth, fine)} deep: ${kerfs.join(", then ")}`;
  }
  const lengths = made.leaves.map((leaf) => formatLength(leaf, units));
  const form = made.form === null ? "" : ` · form radius ${formatLength(made.form, units)}`;
  const long = lengths.length > 4 ? `from ${lengths[0]} to ${lengths.at(-1)}` : lengths.join(", ");
  return `${made.leaves.length} leaves ${formatLength(made.leaf, fine)} thick, ${long} long with what the clamps need${form}`;
}
