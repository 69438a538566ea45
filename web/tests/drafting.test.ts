import { expect, test } from "vitest";
import type { Point3 } from "../src/api/client";
import { emptyDraft, stepBack, withPoint, withSharp } from "../src/drafting/draft";
import { legEnd, type SnapTo, snap, snapIndex, turnTo } from "../src/drafting/snap";
import type { DraftLine } from "../src/window/store";
import { pathOf } from "../src/window/things";
import { jobOf, lineOf, numbers } from "./making";

const path = (points: Point3[]) => pathOf(jobOf({}), lineOf("L1", points));
const nothing: SnapTo = {
  points: [],
  middles: [],
  lines: [],
  touches: true,
  start: null,
  last: null,
  heading: null,
  canClose: false,
  grid: 500,
  reach: 60,
  say: (mm) => `${mm}`,
};

test("a point takes before a middle, a middle before a line, a line before the grid", () => {
  const wall = {
    id: "L1",
    name: "Wall",
    path: path([
      [0, 0, 0],
      [4120, 0, 0],
    ]),
  };
  const to: SnapTo = {
    ...nothing,
    points: [
      [0, 0, 0],
      [4120, 0, 0],
    ],
    middles: [[2060, 0, 0]],
    lines: [wall],
  };
  expect(snap(4100, 30, to)).toMatchObject({ point: [4120, 0], what: "point" });
  expect(snap(2070, 20, to)).toMatchObject({ point: [2060, 0], what: "middle" });
  expect(snap(1210, 20, to)).toMatchObject({
    point: [1000, 0],
    what: "Wall at 1000",
    on: { line: "L1", chainage: 1000 },
  });
  expect(snap(1210, 300, to)).toMatchObject({ point: [1000, 500], what: "grid" });
});

test("a leg goes on in line or square to the last, by whole grid steps, whatever way that lies", () => {
  const next = numbers(1);
  for (let i = 0; i < 200; i++) {
    const heading = next() * 2 * Math.PI;
    const last: Point3 = [next() * 9000, next() * 9000, 0];
    const length = 500 * (1 + Math.floor(next() * 8));
    const turn = [0, 90, 180, -90][Math.floor(next() * 4)] ?? 0;
    const [x, y] = legEnd(last, heading, length, turn, []);
    const off = snap(x + 20 * next() - 10, y + 20 * next() - 10, { ...nothing, last, heading });
    expect(Math.hypot(off.point[0] - x, off.point[1] - y)).toBeLessThan(1e-6);
    expect(off.what).toBe(turn % 180 ? "square" : "in line");
    expect(Math.abs(((turnTo(last, heading, x, y) - turn + 540) % 360) - 180)).toBeLessThan(1e-6);
  }
});

test("a straight touches a circle where the line to its centre is square to it", () => {
  const points = Array.from({ length: 181 }, (_, i): Point3 => {
    const angle = (i * 2 * Math.PI) / 180;
    return [1000 * Math.cos(angle), 1000 * Math.sin(angle), 0];
  });
  const column = { id: "L1", name: "Column", path: path(points) };
  const at = Math.acos(1000 / 3000);
  const [x, y] = [1000 * Math.cos(at), 1000 * Math.sin(at)];
  const found = snap(x, y, { ...nothing, lines: [column], last: [3000, 0, 0] });
  expect(found).toMatchObject({ what: "tangent to Column", on: { touching: true } });
  expect(Math.hypot(found.point[0] - x, found.point[1] - y)).toBeLessThan(1000 * ((2 * Math.PI) / 180));
});

test("the index finds what a look through all lines finds", () => {
  const next = numbers(7);
  const lines = Array.from({ length: 60 }, (_, i) => {
    const points = Array.from({ length: 3 }, (): Point3 => [next() * 5000, next() * 5000, 0]);
    return { line: lineOf(`L${i}`, points), path: path(points) };
  });
  const near = snapIndex(lines);
  for (let i = 0; i < 50; i++) {
    const [x, y] = [next() * 5000, next() * 5000];
    const slow = lines
      .filter(({ path }) =>
        path.points.slice(1).some((b, k) => {
          const a = path.points[k] as Point3;
          return (
            Math.min(a[0], b[0]) <= x + 100 &&
            Math.max(a[0], b[0]) >= x - 100 &&
            Math.min(a[1], b[1]) <= y + 100 &&
            Math.max(a[1], b[1]) >= y - 100
          );
        }),
      )
      .map(({ line }) => line.id);
    expect(
      near(x, y, 100)
        .lines.map((line) => line.id)
        .sort(),
    ).toEqual(slow.sort());
  }
});

test("each step drawn is undone by one step back", () => {
  const points: Point3[] = [
    [0, 0, 0],
    [1000, 0, 0],
    [1000, 800, 0],
    [300, 900, 250],
  ];
  for (const mode of ["straight", "arc", "bulge", "curve", "cord"] as const) {
    const drafts: DraftLine[] = [{ ...emptyDraft, mode }];
    for (const point of points) drafts.push(withPoint(drafts.at(-1) as DraftLine, point));
    for (let i = drafts.length - 1; i > 1; i--) {
      const back = stepBack(drafts[i] as DraftLine);
      // The point an arc goes through is part of its step: going back over the arc asks for it anew.
      if (mode !== "bulge") expect(back.steps).toEqual(drafts[i - 1]?.steps);
      expect(back.start).toEqual(points[0]);
    }
    expect(stepBack(drafts[1] as DraftLine).start).toBeNull();
  }
  const curve = points.reduce(withPoint, { ...emptyDraft, mode: "curve" } as DraftLine);
  expect(withSharp(curve).steps.at(-1)).toContain("sharp (300 mm; 900 mm; 250 mm)");
  expect(withSharp(withSharp(curve))).toEqual(curve);
});
