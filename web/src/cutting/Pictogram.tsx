/** Pieces drawn as they lie on the saw: from above, and from the side where they leave its table. */
import type { CutRowFigures } from "../api/client";
import { outlineOf } from "../api/merging";
import { EDGES } from "./layout";

interface Drawn {
  row: CutRowFigures;
  /** The longest straight piece of the list, mm, which is drawn this long, pixels. */
  longest: number;
  full: number;
  on: boolean;
}

/** The piece as it lies on the saw, drawn to length among all straight ones that are listed, one that bends to a scale of its own where it is longer. */
export function Pictogram({ row, longest, full, on }: Drawn) {
  const high = 17;
  const [under, upper] = [outlineOf(row.under), outlineOf(row.upper)];
  const all = [...under, ...upper];
  const [low, top] = [Math.min(...all.map((point) => point[1])), Math.max(...all.map((point) => point[1]))];
  const along = full / Math.max(longest, row.bends.length ? row.long_point : 0);
  const across = high / Math.max(top - low, 1);
  // A cut's slant is drawn as it is, whatever the drawing's scale along: from the nearer end, at the scale across.
  const begin = Math.min(...all.map((point) => point[0]));
  const end = Math.max(...all.map((point) => point[0]));
  const middle = (begin + end) / 2;
  const length = Math.max((end - begin) * along, high);
  const scale = Math.min(along, (2 * high) / Math.max(top - low, 1));
  const tall = row.bends.length ? Math.max(high, (top - low) * scale) : high;
  const place = ([x, y]: [number, number]): string => {
    // A piece that bends is drawn to one scale, as it lies.
    if (row.bends.length) {
      return `${((x - begin) * scale + 1).toFixed(1)} ${((top - y) * scale + (tall - (top - low) * scale) / 2 + 1).toFixed(1)}`;
    }
    const px =
      x < middle ? Math.min((x - begin) * across, length / 2) : length - Math.min((end - x) * across, length / 2);
    return `${(px + 1).toFixed(1)} ${(high - (y - low) * across + 1).toFixed(1)}`;
  };
  const path = (points: [number, number][]) => `M${points.map(place).join("L")}Z`;
  return (
    <svg
      width={EDGES + full + 4}
      height={tall + 4}
      viewBox={`${-EDGES} -1 ${EDGES + full + 4} ${tall + 4}`}
      role="img"
      aria-label={`The piece from above, its ${row.left} to the left of travel and its ${row.right} to the right`}
      className="block"
    >
      <g fontSize={10.5} textAnchor="end" className="fill-pencil">
        <text x={-5} y={8}>
          {row.left}
        </text>
        <text x={-5} y={tall + 1}>
          {row.right}
        </text>
      </g>
      <path
        d={path(under)}
        fill={on ? "var(--color-chalk-pale)" : "var(--color-lath-deep)"}
        stroke={on ? "var(--color-chalk-deep)" : "var(--color-ink)"}
        strokeWidth={0.9}
        strokeDasharray="2.5 2"
      />
      <path
        d={path(upper)}
        fill={on ? "var(--color-chalk-wash)" : "var(--color-lath-under)"}
        fillOpacity={0.9}
        stroke={on ? "var(--color-chalk-deep)" : "var(--color-ink)"}
        strokeWidth={1.1}
        strokeLinejoin="round"
      />
    </svg>
  );
}

/** A piece that leaves the plane of the table, seen from the right of travel as it lies there. */
export function SideView({ row, longest, full, on }: Drawn) {
  const points = outlineOf(row.side_view ?? []);
  const [xs, ys] = [points.map((point) => point[0]), points.map((point) => point[1])];
  const [left, right, low, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min(
    full / Math.max(longest, row.long_point),
    full / Math.max(right - left, 1),
    44 / Math.max(top - low, 1),
  );
  const [width, height] = [(right - left) * scale, (top - low) * scale];
  // A flat piece is drawn lower than its word is high.
  const tall = Math.max(height + 6, 14);
  const wide = Math.max(width, 20);
  return (
    <svg
      width={EDGES + wide + 4}
      height={tall}
      viewBox={`${-EDGES} ${(height - tall) / 2} ${EDGES + wide + 4} ${tall}`}
      role="img"
      aria-label="The piece from the side, as it lies on the saw"
      className="shrink-0"
    >
      <text x={-5} y={height / 2 + 4} fontSize={10.5} textAnchor="end" className="fill-pencil">
        side
      </text>
      <path d={`M-2 ${height + 1}H${wide + 2}`} stroke="var(--color-faint)" strokeDasharray="3 2" />
      <path
        d={`M${points.map(([x, y]) => `${((x - left) * scale).toFixed(1)} ${((top - y) * scale).toFixed(1)}`).join("L")}Z`}
        fill={on ? "var(--color-chalk-wash)" : "var(--color-lath-under)"}
        stroke={on ? "var(--color-chalk-deep)" : "var(--color-ink)"}
        strokeWidth={1}
        strokeLinejoin="round"
      />
    </svg>
  );
}
