/** How the items of a row are drawn flat: on plan by their symbols, and square to an upright plane by their outlines. */
import { polygonHull } from "d3-polygon";
import type { ItemFigures, Point3, RowFigures } from "../api/client";

/** Numbers that come for each item: x, y, z, heading, chainage, which item it is, and its tilt, x and y, its size as a share, how much longer its hanger is. */
export const STRIDE = 10;

/** More items than this are drawn as short strokes: they are no larger on the sheet. */
const MANY = 4000;

type Part = ItemFigures["parts"][number];
type Turn = (point: readonly [number, number, number]) => Point3;

export interface Placed {
  at: Point3;
  heading: number;
  item: number;
  tilt: [number, number];
  size: number;
  /** How much longer its hanger is than its kind's, mm. */
  longer: number;
}

export function placed(row: RowFigures, places: Float32Array, number: number): Placed {
  const [ox = 0, oy = 0, oz = 0] = row.origin as number[];
  const [x = 0, y = 0, z = 0, heading = 0, , item = 0, tx = 0, ty = 0, size = 1, longer = 0] = places.subarray(
    number * STRIDE,
    (number + 1) * STRIDE,
  );
  return { at: [ox + x, oy + y, oz + z], heading, item, tilt: [tx, ty], size, longer };
}

export const countOf = (places: Float32Array) => Math.floor(places.length / STRIDE);

/** How a point of an item comes to lie in the job: turned by its heading, then about the level axis of its tilt, then moved. */
function turning({ at, heading, tilt, size }: Placed): Turn {
  const [c, s] = [size * Math.cos(heading), size * Math.sin(heading)];
  const angle = Math.hypot(...tilt);
  const [ux, uy] = angle > 0 ? [tilt[0] / angle, tilt[1] / angle] : [1, 0];
  const [ca, sa] = [Math.cos(angle), Math.sin(angle)];
  return ([a, b, up]) => {
    const z = size * up;
    const [x, y] = [a * c - b * s, a * s + b * c];
    // Rodrigues' formula about the axis (ux, uy, 0).
    const along = (ux * x + uy * y) * (1 - ca);
    return [
      at[0] + x * ca + uy * z * sa + ux * along,
      at[1] + y * ca - ux * z * sa + uy * along,
      at[2] + z * ca + (ux * y - uy * x) * sa,
    ];
  };
}

/** A part as it is of one item: a hanger is as long as it is there. */
function partOf(part: Part, { longer }: Placed): Part {
  if (!part.hanger || !longer) return part;
  const levels = part.levels.map((level, i) => (i ? [(level[0] ?? 0) + longer, ...level.slice(1)] : level));
  return { ...part, levels: levels as Part["levels"] };
}

/** The corners of a part, level by level. */
function corners({ round, levels }: Part, sides = 12): [number, number, number][] {
  return levels.flatMap((level) => {
    const [z = 0, along = 0, across = 0, x = 0, y = 0] = level as number[];
    const around = round
      ? Array.from({ length: sides }, (_, i): [number, number] => {
          const angle = (2 * Math.PI * i) / sides;
          return [(along / 2) * Math.cos(angle), (across / 2) * Math.sin(angle)];
        })
      : [
          [-along / 2, -across / 2] as const,
          [along / 2, -across / 2] as const,
          [along / 2, across / 2] as const,
          [-along / 2, across / 2] as const,
        ];
    return around.map(([a, b]): [number, number, number] => [x + a, y + b, z]);
  });
}

/** A closed path through points on the sheet. */
const loop = (points: readonly (readonly number[])[]) =>
  `M${points.map((point) => `${(point[0] ?? 0).toFixed(1)} ${(point[1] ?? 0).toFixed(1)}`).join("L")}Z`;

/** One path for all of a row's items of a letter, on plan. */
export function itemsPath(row: RowFigures, places: Float32Array, letter: number): string {
  const found: string[] = [];
  const item = row.items[letter];
  for (let number = 0; number < countOf(places); number++) {
    const one = placed(row, places, number);
    if (one.item !== letter || !item) continue;
    if (row.count > MANY) {
      found.push(`M${one.at[0].toFixed(0)} ${one.at[1].toFixed(0)}h1`);
      continue;
    }
    const turn = turning(one);
    if (one.tilt[0] || one.tilt[1]) {
      for (const part of item.parts) {
        const hull = polygonHull(
          corners(partOf(part, one)).map((point): [number, number] => [turn(point)[0], turn(point)[1]]),
        );
        if (hull) found.push(loop(hull));
      }
    } else {
      for (const outline of item.symbol) {
        found.push(loop(outline.map((point) => turn([point[0] ?? 0, point[1] ?? 0, 0]))));
      }
    }
  }
  return found.join("");
}

/** An item as it is seen square to an upright plane: its outline as a path, and how far behind the plane it stands. */
export function itemSeen(
  row: RowFigures,
  places: Float32Array,
  number: number,
  to: (point: Point3) => Point3,
): { d: string; depth: number; letter: number } | null {
  const one = placed(row, places, number);
  const item = row.items[one.item];
  if (!item) return null;
  const depth = to(one.at)[2];
  const turn = turning(one);
  if (row.count > MANY) {
    const high = Math.max(0, ...item.parts.flatMap((part) => part.levels.map((level) => level[0] ?? 0)));
    const [low, top] = [to(turn([0, 0, 0])), to(turn([0, 0, high]))];
    return {
      d: `M${low[0].toFixed(0)} ${low[1].toFixed(0)}L${top[0].toFixed(0)} ${top[1].toFixed(0)}`,
      depth,
      letter: one.item,
    };
  }
  const d = item.parts
    .map((part) => partOf(part, one))
    .map((part) => (one.tilt[0] || one.tilt[1] ? hullSeen(part, turn, to) : uprightSeen(part, turn, to)))
    .join("");
  return { d, depth, letter: one.item };
}

function hullSeen(part: Part, turn: Turn, to: (point: Point3) => Point3): string {
  const hull = polygonHull(
    corners(part).map((point): [number, number] => {
      const [x, y] = to(turn(point));
      return [x, y];
    }),
  );
  return hull ? loop(hull) : "";
}

/** A part that stands upright: as wide at each level as it is seen there. */
function uprightSeen(part: Part, turn: Turn, to: (point: Point3) => Point3): string {
  const [left, right]: [number, number][][] = [[], []];
  const [o] = to(turn([0, 0, 0]));
  const [along, across] = [to(turn([1, 0, 0]))[0] - o, to(turn([0, 1, 0]))[0] - o];
  for (const level of part.levels) {
    const [z = 0, a = 0, b = 0, x = 0, y = 0] = level as number[];
    const [middle, height] = to(turn([x, y, z]));
    const half = part.round ? Math.hypot(a * along, b * across) / 2 : (Math.abs(a * along) + Math.abs(b * across)) / 2;
    left?.push([middle - half, height]);
    right?.unshift([middle + half, height]);
  }
  return loop([...(left ?? []), ...(right ?? [])]);
}
