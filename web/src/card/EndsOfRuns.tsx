/** How runs are finished where they end: at the beginning and the end of their line, and beside openings. */
import type { Edit, Problem, Run } from "../api/client";
import { Pick } from "../ui/choices";
import { AngleField, FigureField, LengthField, Question, Setting } from "../ui/fields";
import { useChanges, useShown } from "../window/job";
import { lineById } from "../window/things";
import { shared } from "./shared";

type Finish = NonNullable<Run["first_end"]>;
type Where = "first_end" | "last_end" | "opening_ends";

const WAYS: [Finish["kind"] & string, string][] = [
  ["square", "square"],
  ["angled", "at an angle"],
  ["plumb", "plumb"],
  ["level", "level"],
  ["returned", "returned"],
  ["capped", "capped"],
];

export function EndsOfRuns({ runs }: { runs: Run[] }) {
  const shown = useShown();
  const lines = runs.map((run) => lineById(shown, run.line));
  const open = lines.some((line) => line && !line.closed);
  const broken = runs.some((run, at) => run.stretches || (run.openings !== "pass" && lines[at]?.openings?.length));
  if (!open && !broken) return null;
  return (
    <>
      <Question>How do the ends finish?</Question>
      {open && <EndFinished runs={runs} where="first_end" label="Where it begins" />}
      {open && <EndFinished runs={runs} where="last_end" label="Where it ends" />}
      {broken && <EndFinished runs={runs} where="opening_ends" label="Beside openings" />}
    </>
  );
}

function EndFinished({ runs, where, label }: { runs: Run[]; where: Where; label: string }) {
  const { edit } = useChanges();
  const set = (changes: object): Promise<Problem | null> =>
    edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { [where]: changes } }) as Edit));
  const kind = shared(runs, (run) => run[where]?.kind ?? "square");
  const of = (get: (finish: Finish) => number | undefined) =>
    shared(runs, (run) => {
      const finish = run[where];
      return (finish && get(finish)) ?? 0;
    });
  return (
    <>
      <Setting label={label}>
        <Pick
          label={label}
          value={kind}
          various="various"
          ways={WAYS}
          choose={(to) => void set(to === "capped" ? { kind: to, cap: "End cap" } : { kind: to })}
        />
      </Setting>
      <div className="border-rule border-l-[3px] pl-2.5">
        {kind === "angled" && (
          <>
            <AngleField
              label="Front longer by"
              degrees={of((finish) => (finish.kind === "angled" ? finish.turn : 0))}
              take={(turn) => set({ turn })}
            />
            <AngleField
              label="Top longer by"
              degrees={of((finish) => (finish.kind === "angled" ? finish.lean : 0))}
              take={(lean) => set({ lean })}
            />
          </>
        )}
        {kind === "returned" && (
          <LengthField
            label="Goes behind the line"
            mm={of((finish) => (finish.kind === "returned" ? finish.deep : 0))}
            take={(deep) => set({ deep })}
          />
        )}
        {kind === "capped" && (
          <FigureField
            label="With"
            width="w-[150px]"
            unit=""
            value={
              shared(runs, (run) => (run[where]?.kind === "capped" ? (run[where] as { cap: string }).cap : "")) ?? ""
            }
            placeholder="various"
            take={(cap) => set({ cap })}
          />
        )}
        {kind !== "square" || of((finish) => finish.past) !== 0 ? (
          <LengthField label="Let past by" mm={of((finish) => finish.past)} take={(past) => set({ past })} />
        ) : null}
      </div>
    </>
  );
}
