/** How the items of a row are drawn on plan. */
import type { RowFigures } from "../../api/client";

/** One path for all items of a row. Past some thousands, an item is a short stroke: it is no larger on the sheet. */
export function itemsPath(row: RowFigures, places: Float32Array): string {
  const parts: string[] = [];
  const [ox, oy] = row.origin as [number, number, number];
  const many = row.count > 4000;
  for (let i = 0; i + 4 < places.length; i += 5) {
    const [x, y, heading] = [ox + (places[i] ?? 0), oy + (places[i + 1] ?? 0), places[i + 3] ?? 0];
    if (many) {
      parts.push(`M${x.toFixed(0)} ${y.toFixed(0)}h1`);
      continue;
    }
    const [c, s] = [Math.cos(heading), Math.sin(heading)];
    const corners = row.footprint.map((point) => {
      const [a = 0, b = 0] = point as [number, number];
      return `${(x + a * c - b * s).toFixed(1)} ${(y + a * s + b * c).toFixed(1)}`;
    });
    parts.push(`M${corners.join("L")}Z`);
  }
  return parts.join("");
}
