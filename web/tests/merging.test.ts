import { expect, test } from "vitest";
import { changed, filled, footprintsOf, type JobShown, outlineOf } from "../src/api/merging";
import { jobOf, numbers } from "./making";

type Thing = { id: string; name: string };

/** What the service tells of a job becoming another: things that are new or other, that are gone, and their order where it is another. */
function deltaOf(before: Thing[], after: Thing[]) {
  const known = new Map(before.map((one) => [one.id, one.name]));
  const put = after.filter((one) => known.get(one.id) !== one.name);
  const there = new Set(after.map((one) => one.id));
  return {
    put,
    gone: before.filter((one) => !there.has(one.id)).map((one) => one.id),
    order: after.map((one) => one.id),
  };
}

const figures = (runs: Thing[]) => runs.map((run) => ({ id: run.id, sentence: run.name }));
const answerOf = (revision: number, delta: object, runs: Thing[]) =>
  ({
    id: "job",
    since: revision - 1,
    revision,
    undo: null,
    redo: null,
    later: false,
    made: [],
    job: { runs: delta },
    lines: [],
    sections: [],
    rows: [],
    typicals: [],
    runs: figures(runs),
    cuts: Object.fromEntries(runs.map((run) => [run.id, `key of ${run.name}`])),
    checks: Object.fromEntries(
      runs.map((run) => [run.id, [{ thing: run.id, severity: run.name < "m" ? "fault" : "warning" }]]),
    ),
    totals: {
      runs: Object.fromEntries(runs.map((run) => [run.id, { pieces: 1 }])),
      sections: {},
      job: { pieces: 0, line_length: 0, bar: 0 },
      items: 0,
    },
  }) as never;

test("any run of changes gives the job, its figures, lists and checks as they are", () => {
  const next = numbers(3);
  let shown: JobShown = jobOf({});
  let runs: Thing[] = [];
  for (let revision = 2; revision < 120; revision++) {
    const after = runs.filter(() => next() > 0.2).map((run) => (next() < 0.3 ? { ...run, name: `${next()}` } : run));
    for (let i = Math.floor(next() * 3); i > 0; i--)
      after.splice(Math.floor(next() * (after.length + 1)), 0, {
        id: `R${revision}${i}`,
        name: String.fromCharCode(97 + next() * 26),
      });
    const delta = deltaOf(runs, after);
    shown = changed(shown, answerOf(revision, delta, delta.put));
    runs = after;
    expect(shown.job.runs).toEqual(runs);
    expect(shown.runs).toEqual(figures(runs));
    expect(Object.keys(shown.cuts).sort()).toEqual(runs.map((run) => run.id).sort());
    expect(Object.keys(shown.totals.runs).sort()).toEqual(runs.map((run) => run.id).sort());
    expect(shown.checks).toHaveLength(runs.length);
    const severities = shown.checks.map((check) => check.severity);
    expect(severities).toEqual([...severities].sort());
  }
});

test("figures that come late do not take the place of an edit's", () => {
  const runs = [
    { id: "R1", name: "old" },
    { id: "R2", name: "as it was" },
  ];
  const edited = changed(
    jobOf({ runs }),
    answerOf(2, { put: [{ id: "R1", name: "new" }] }, [{ id: "R1", name: "new" }]),
  );
  const part = { ...(answerOf(1, {}, runs) as object), revision: 1, done: 2, of: 2 };
  const after = filled(edited, part as never);
  expect(after.runs).toEqual(
    figures([
      { id: "R1", name: "new" },
      { id: "R2", name: "as it was" },
    ]),
  );
  expect(after.cuts.R1).toBe("key of new");
});

test("an outline is the double sum of what was sent", () => {
  expect(outlineOf([10, 0, 5, 20, -15, -20])).toEqual([
    [1, 0],
    [2.5, 2],
    [2.5, 2],
  ]);
});

test("outlines of pieces go on from one another", () => {
  // A square of 1 mm, and beside its right edge a strip of six points.
  const square = [0, 0, 10, 0, 0, 10, -10, 0];
  const strip = [0, 0, 10, 0, 0, 5, -5, 0, -15, 5, 0, -10];
  expect(footprintsOf({ footprints: [[square], [strip]] })).toEqual([
    [
      [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ],
    ],
    [
      [
        [1, 0],
        [2, 0],
        [3, 0.5],
        [3.5, 1],
        [2.5, 2],
        [1.5, 2],
      ],
    ],
  ]);
});

test("an accepted check counts no more, until it is another or is taken back", () => {
  const check = (key: string) => ({ thing: "R1", key, keys: [key], severity: "fault" });
  const sentence = (revision: number, job: object, checks: object) =>
    ({ ...(answerOf(revision, {}, []) as object), job, checks }) as never;
  const runs = [{ id: "R1", name: "rail" }];
  let shown = changed(jobOf({ runs }), sentence(2, {}, { R1: [check("a"), check("b")] }));
  expect(shown.checks).toHaveLength(2);
  const accepted = [{ thing: "R1", check: "a", what: "it is", reason: "sanded" }];
  shown = changed(shown, sentence(3, { accepted }, {}));
  expect(shown.checks.map((one) => one.key)).toEqual(["b"]);
  expect(shown.accepted.map(({ reason }) => reason)).toEqual(["sanded"]);
  // Sentence anew and otherwise it counts again; reported as it was it is accepted still.
  shown = changed(shown, sentence(4, {}, { R1: [check("c")] }));
  expect([shown.checks.length, shown.accepted.length]).toEqual([1, 0]);
  shown = changed(shown, sentence(5, {}, { R1: [check("a")] }));
  expect([shown.checks.length, shown.accepted.length]).toEqual([0, 1]);
  shown = changed(shown, sentence(6, { accepted: [] }, {}));
  expect([shown.checks.length, shown.accepted.length]).toEqual([1, 0]);
});
