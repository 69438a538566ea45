/** Figures along the line of what is selected: the lengths of its straights, the radii and lengths of its curves. */
import type { JobShown, Line, Point3, Units } from "../../api/client";
import { formatLength } from "../../ui/figures";
import { useShown, useUnits } from "../../window/job";
import { useWindow } from "../../window/store";
import { lineFigures, linePoints, pathOf, pointAt, runFigures } from "../../window/things";
import { type Sheet, toSheet } from "./frame";

export function Dimensions({ line, run, frame, width, height }: Sheet & { line: Line; run: string }) {
  const shown = useShown();
  const units = useUnits();
  const piece = useWindow((state) => state.piece);
  const points = linePoints(line);
  const figures = runFigures(shown, run);
  // Dimensions keep clear of the face: they lie on the back of the run.
  const side = figures?.right ? 1 : -1;
  const path = line.closed ? [...points, points[0] as Point3] : points;
  if (path.length > 120) return null;
  // Seen edge-on a hoop's legs lie over one another: a figure that would be printed over one that is there is left to the rod.
  const labels: { x: number; y: number; reach: number }[] = [];
  const free = (x: number, y: number, text: string) =>
    labels.every((one) => Math.hypot(one.x - x, one.y - y) >= one.reach + text.length * 2.6 + 4);
  const put = (x: number, y: number, text: string) => labels.push({ x, y, reach: text.length * 2.6 + 4 });
  return (
    <g className="figure pointer-events-none" fontSize={12.5}>
      {path.slice(1).map((b, i) => {
        const a = path[i] as Point3;
        const leg = line.legs[i];
        if (leg && leg.kind !== "straight") {
          const label = bentLabel(shown, units, line, i, side, { frame, width, height });
          if (!label || !free(label.x, label.y, label.words)) return null;
          put(label.x, label.y, label.words);
          return (
            <text
              key={i}
              x={label.x}
              y={label.y}
              textAnchor="middle"
              dominantBaseline="central"
              className="halo fill-pencil"
            >
              {label.words}
            </text>
          );
        }
        const [ax, ay] = toSheet(frame, width, height, a[0], a[1]);
        const [bx, by] = toSheet(frame, width, height, b[0], b[1]);
        const long = Math.hypot(bx - ax, by - ay);
        const text = formatLength(Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]), units);
        if (long < text.length * 7 + 8) return null;
        const [ux, uy] = [(bx - ax) / long, (by - ay) / long];
        // Left of travel on the sheet is (uy, −ux) because y runs down.
        let [nx, ny] = [uy * side, -ux * side];
        const off = 26;
        const taken = () => !free((ax + bx) / 2 + nx * off, (ay + by) / 2 + ny * off, text);
        // Two dimensions in a narrow recess would lie on one another: one goes to the other side, or is left to the rod.
        if (taken()) [nx, ny] = [-nx, -ny];
        if (taken()) return null;
        put((ax + bx) / 2 + nx * off, (ay + by) / 2 + ny * off, text);
        const [x1, y1, x2, y2] = [ax + nx * off, ay + ny * off, bx + nx * off, by + ny * off];
        let angle = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
        if (angle > 90.5 || angle <= -89.5) angle += 180;
        const [mx, my] = [(x1 + x2) / 2, (y1 + y2) / 2];
        const half = text.length * 3.6 + 5;
        const on = piece === i;
        return (
          <g key={i} className={on ? "text-chalk-deep" : "text-pencil"} stroke="currentColor">
            <path
              d={`M${x1} ${y1}L${mx - ux * half} ${my - uy * half}M${mx + ux * half} ${my + uy * half}L${x2} ${y2}`}
              strokeWidth={0.9}
            />
            {[
              [x1, y1],
              [x2, y2],
            ].map(([x = 0, y = 0], end) => (
              <path
                key={end}
                d={`M${x - 4} ${y + 4}L${x + 4} ${y - 4}M${x - nx * 7} ${y - ny * 7}L${x + nx * 5} ${y + ny * 5}`}
                strokeWidth={0.9}
              />
            ))}
            <text
              transform={`translate(${mx} ${my}) rotate(${angle})`}
              textAnchor="middle"
              dominantBaseline="central"
              fill="currentColor"
              stroke="none"
              fontWeight={on ? 700 : 400}
            >
              {text}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** The radius of an arc, or the length of another curve, and where it stands: at its middle. */
function bentLabel(
  shown: JobShown,
  units: Units,
  line: Line,
  leg: number,
  side: number,
  { frame, width, height }: Sheet,
): { x: number; y: number; words: string } | null {
  const parts = lineFigures(shown, line.id)?.legs.filter((one) => one.leg === leg && !one.rounding) ?? [];
  const [first, last] = [parts[0], parts.at(-1)];
  if (!first || !last) return null;
  const middle = (first.begin + last.end) / 2;
  const path = pathOf(shown, line);
  const [a, b] = [pointAt(path, middle - 1), pointAt(path, middle + 1)];
  const at = pointAt(path, middle);
  const size = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  // Left of travel on the sheet, where y runs down; dimensions keep to the back of the run, as those of straights do.
  const [nx, ny] = [(-(b[1] - a[1]) / size) * side, (-(b[0] - a[0]) / size) * side];
  const [x, y] = toSheet(frame, width, height, at[0], at[1]);
  const radius = first.kind === "arc" && first.radius ? `R ${formatLength(first.radius, units)} · ` : "";
  const words = `${radius}${formatLength(last.end - first.begin, units)}`;
  const off = 18 + Math.abs(nx) * words.length * 3.2;
  return { x: x + nx * off, y: y + ny * off, words };
}
