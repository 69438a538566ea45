import { expect, test } from "vitest";
import { gathered } from "../src/sheet/plan/cluster";
import { numbers } from "./making";

test("no two marks that are left lie over one another, and none is lost", () => {
  const next = numbers(5);
  for (const count of [0, 1, 40, 2000]) {
    const marks = Array.from({ length: count }, (_, id) => ({ x: next() * 900 - 100, y: next() * 700 - 100, id }));
    const groups = gathered(marks, 18);
    expect(
      groups
        .flat()
        .map((one) => one.id)
        .sort((a, b) => a - b),
    ).toEqual(marks.map((one) => one.id));
    const firsts = groups.map(([first]) => first as (typeof marks)[number]);
    const away = (a: { x: number; y: number }, b: { x: number; y: number }) => Math.hypot(a.x - b.x, a.y - b.y);
    const apart = firsts.flatMap((first, i) => firsts.slice(i + 1).map((other) => away(first, other)));
    expect(apart.filter((distance) => distance < 18)).toEqual([]);
    const within = groups.flatMap((group, i) =>
      group.map((one) => ({ one, first: firsts[i] as (typeof marks)[number] })),
    );
    expect(within.filter(({ one, first }) => away(one, first) >= 18)).toEqual([]);
    // The first of a group is the one that came first, which matters most.
    expect(within.filter(({ one, first }) => one.id < first.id)).toEqual([]);
  }
});
