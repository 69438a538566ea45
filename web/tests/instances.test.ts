import { expect, test } from "vitest";
import type { PlaceFigures, Point3 } from "../src/api/client";
import { carried, onPlan } from "../src/window/instances";
import { numbers } from "./making";

/** Apply the six numbers of an SVG matrix to a point. */
function applied(matrix: string, [x, y]: Point3): [number, number] {
  const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0] = matrix.slice("matrix(".length, -1).split(" ").map(Number);
  return [a * x + c * y + e, b * x + d * y + f];
}

test("a place is where its transform on plan takes what is drawn, mirrored or not", () => {
  const next = numbers(5);
  for (let i = 0; i < 200; i++) {
    const shift = [next() * 1e4, -next() * 1e4, next() * 3000] as Point3;
    const place = { name: "W", over: i % 2 === 1, turn: (next() - 0.5) * 6, shift, variant: 0 } as PlaceFigures;
    const point: Point3 = [next() * 2000, next() * 2000, next() * 2000];
    const [x, y, z] = carried(place, point);
    const [px, py] = applied(onPlan(place), point);
    expect(x).toBeCloseTo(px, 6);
    expect(y).toBeCloseTo(py, 6);
    expect(z).toBeCloseTo(point[2] + shift[2], 6);
    // Distances stay; the sense of turning only where it is not mirrored.
    const [ox, oy] = carried(place, [0, 0, 0]);
    expect(Math.hypot(x - ox, y - oy)).toBeCloseTo(Math.hypot(point[0], point[1]), 6);
    const [ax, ay] = carried(place, [1, 0, 0]);
    const [bx, by] = carried(place, [0, 1, 0]);
    const area = (ax - ox) * (by - oy) - (ay - oy) * (bx - ox);
    expect(area).toBeCloseTo(place.over ? -1 : 1, 6);
  }
});
