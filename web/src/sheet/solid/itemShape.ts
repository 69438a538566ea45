/** What an item of a row looks like in 3D. */
import * as THREE from "three";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import type { ItemFigures } from "../../api/client";
import { STRIDE } from "../items";
import type { Fineness } from "./useItemShape";

type Part = ItemFigures["parts"][number];
interface Ring {
  z: number;
  along: number;
  across: number;
  x: number;
  y: number;
}

/** How many sides a round part has, and how many levels. */
const DRAWN = { far: [8, 6], middle: [14, 18], near: [28, 60] } as const;
const IN_CROWDS = [5, 3] as const;

/** An arris between two bands is smooth where they meet at less than this, radians. */
const SMOOTH = 0.6;

/** The shape of an item, or of its hanger alone, with the middle of its foot at nought; `count` is how many there are of it. */
export function itemShape(item: ItemFigures, count: number, fineness: Fineness, hanger = false): THREE.BufferGeometry {
  const [sides, levels] = count > 50_000 ? IN_CROWDS : DRAWN[fineness];
  const [vertices, normals]: number[][] = [[], []];
  const parts = item.parts.filter((part) => part.hanger === hanger);
  for (const part of parts) addPart(part, sides, levels, vertices ?? [], normals ?? []);
  const shape = new THREE.BufferGeometry();
  shape.setAttribute("position", new THREE.Float32BufferAttribute(vertices ?? [], 3));
  shape.setAttribute("normal", new THREE.Float32BufferAttribute(normals ?? [], 3));
  // Corners that are alike are there once.
  return mergeVertices(shape);
}

function addPart(part: Part, sides: number, most: number, vertices: number[], normals: number[]) {
  const every = part.levels.map((level): Ring => {
    const [z = 0, along = 0, across = 0, x = 0, y = 0] = level as number[];
    return { z, along, across, x, y };
  });
  const step = Math.max(1, Math.ceil((every.length - 1) / most));
  const rings = every.filter((_, i) => i % step === 0 || i === every.length - 1);
  const unit: [number, number][] = part.round
    ? Array.from({ length: sides }, (_, i) => {
        const angle = (2 * Math.PI * i) / sides;
        return [Math.cos(angle) / 2, Math.sin(angle) / 2];
      })
    : [
        [-0.5, -0.5],
        [0.5, -0.5],
        [0.5, 0.5],
        [-0.5, 0.5],
      ];
  const corner = (ring: Ring, side: number) => {
    const [a, b] = unit[side % unit.length] ?? [0, 0];
    return new THREE.Vector3(ring.x + a * ring.along, ring.y + b * ring.across, ring.z);
  };
  const put = (points: THREE.Vector3[], ways: THREE.Vector3[]) => {
    for (const [i, j, k] of [
      [0, 1, 2],
      [0, 2, 3],
    ] as const) {
      for (const at of [i, j, k]) {
        vertices.push(...(points[at] as THREE.Vector3).toArray());
        normals.push(...(ways[at] as THREE.Vector3).toArray());
      }
    }
  };
  // The slope of each band as seen from the side, by which neighbours are smooth or crisp.
  const slopes = rings.slice(1).map((high, i) => {
    const low = rings[i] as Ring;
    return Math.atan2(low.along - high.along, 2 * (high.z - low.z));
  });
  const slopeAt = (band: number, level: number) => {
    const [own, other] = [slopes[band] ?? 0, slopes[level === band ? band - 1 : band + 1]];
    return other !== undefined && Math.abs(other - own) < SMOOTH ? (own + other) / 2 : own;
  };
  for (let band = 0; band + 1 < rings.length; band++) {
    const [low, high] = [rings[band] as Ring, rings[band + 1] as Ring];
    for (let side = 0; side < unit.length; side++) {
      const points = [corner(low, side), corner(low, side + 1), corner(high, side + 1), corner(high, side)];
      if (part.round) {
        const way = (s: number, level: number) => {
          const [a, b] = unit[s % unit.length] ?? [0, 0];
          const slope = slopeAt(band, level);
          return new THREE.Vector3(2 * a * Math.cos(slope), 2 * b * Math.cos(slope), Math.sin(slope));
        };
        put(points, [way(side, band), way(side + 1, band), way(side + 1, band + 1), way(side, band + 1)]);
      } else {
        const [a, b, c, d] = points as [THREE.Vector3, THREE.Vector3, THREE.Vector3, THREE.Vector3];
        const around = b.distanceTo(a) > 0 ? b.clone().sub(a) : c.clone().sub(d);
        const way = around.cross(d.clone().sub(a)).normalize();
        put(points, [way, way, way, way]);
      }
    }
  }
  for (const [ring, way] of [
    [rings[0], -1],
    [rings.at(-1), 1],
  ] as const) {
    if (!ring || ring.along <= 0) continue;
    const up = new THREE.Vector3(0, 0, way);
    for (let side = 1; side + 1 < unit.length; side++) {
      const points = [corner(ring, 0), corner(ring, side), corner(ring, side + 1)];
      for (const at of way > 0 ? points : points.reverse()) {
        vertices.push(...at.toArray());
        normals.push(...up.toArray());
      }
    }
  }
}

const axis = new THREE.Vector3();
const lean = new THREE.Quaternion();
const turn = new THREE.Quaternion();
const at = new THREE.Vector3();
const scale = new THREE.Vector3();
const UP = new THREE.Vector3(0, 0, 1);

/** Where an item stands, from its row's origin: turned by its heading, then about the level axis of its tilt. */
export function itemMatrix(places: Float32Array, number: number, matrix: THREE.Matrix4): THREE.Matrix4 {
  const first = number * STRIDE;
  const value = (i: number) => places[first + i] ?? 0;
  axis.set(value(6), value(7), 0);
  const angle = axis.length();
  turn.setFromAxisAngle(UP, value(3));
  if (angle > 0) turn.premultiply(lean.setFromAxisAngle(axis.divideScalar(angle), angle));
  return matrix.compose(at.set(value(0), value(1), value(2)), turn, scale.setScalar(value(8)));
}

const stretch = new THREE.Matrix4();
const sink = new THREE.Matrix4();

/** Where an item's hanger hangs, as long as it is there: `low` and `high` are its ends on the item. */
export function hangerMatrix(
  places: Float32Array,
  number: number,
  [low, high]: [number, number],
  matrix: THREE.Matrix4,
) {
  const longer = places[number * STRIDE + 9] ?? 0;
  itemMatrix(places, number, matrix);
  // About its lower end, which stays on the item.
  stretch.makeScale(1, 1, Math.max(1e-6, (high - low + longer) / (high - low)));
  sink.makeTranslation(0, 0, -low);
  return matrix.multiply(sink.clone().invert()).multiply(stretch).multiply(sink);
}

/** How wide the widest part of an item is. */
export function widthOf(item: ItemFigures): number {
  return Math.max(0, ...item.parts.flatMap(({ levels }) => levels.flatMap((level) => level.slice(1, 3))));
}

/** The ends of an item's hanger, if it has one. */
export function hangerOf(item: ItemFigures): [number, number] | null {
  const levels = item.parts.find((part) => part.hanger)?.levels;
  return levels ? [levels[0]?.[0] ?? 0, levels.at(-1)?.[0] ?? 0] : null;
}

/** The numbers of the items of a letter. */
export function numbersOf(places: Float32Array | undefined, letter: number): number[] {
  const found: number[] = [];
  for (let i = 0; places && i * STRIDE < places.length; i++) if (places[i * STRIDE + 5] === letter) found.push(i);
  return found;
}
