/** How runs are finished where they end: at the beginning and the end of their line, and beside openings. */
import { useState } from "react";
import type { Problem, Run } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Setting } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { ENDS } from "../questions";
import { shared } from "../shared";
import { ended, ends } from "./answers";
import { beside } from "./beside";
import { FINISHES } from "./ways";

type Finish = NonNullable<Run["first_end"]>;
type Where = "first_end" | "last_end" | "opening_ends";

type Rounded = Extract<Finish, { kind: "rounded" }>;
const EDGES: [NonNullable<Rounded["edges"]>, string][] = [
  ["sides", "both sides"],
  ["front", "the front"],
  ["back", "the back"],
  ["both", "top and foot"],
  ["top", "the top"],
  ["bottom", "the foot"],
];

export function EndsOfRuns({ runs }: { runs: Run[] }) {
  const shown = useShown();
  const { open, broken } = ended(shown, runs);
  if (!open && !broken) return null;
  // What is begun to be said of one run is not said of another.
  const of = runs.map((run) => run.id).join();
  return (
    <Asked question={ENDS} answer={ends(runs, open, broken)}>
      {open && <EndFinished key={`first_end ${of}`} runs={runs} where="first_end" label="Where it begins" />}
      {open && <EndFinished key={`last_end ${of}`} runs={runs} where="last_end" label="Where it ends" />}
      {broken && <EndFinished key={`opening_ends ${of}`} runs={runs} where="opening_ends" label="Beside openings" />}
    </Asked>
  );
}

function EndFinished({ runs, where, label }: { runs: Run[]; where: Where; label: string }) {
  const { edit } = useChanges();
  const shown = useShown();
  const [scribing, scribe] = useState(false);
  const set = (changes: object): Promise<Problem | null> =>
    edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { [where]: changes } })));
  const made = shared(runs, (run) => run[where]?.kind ?? "square");
  // Nothing is scribed before it is said to what.
  const kind = scribing ? "scribed" : made;
  const said = <T,>(of: Finish["kind"], get: (finish: Finish) => T): T | null =>
    shared(runs, (run) => (run[where]?.kind === of ? get(run[where] as Finish) : (null as T)));
  const to = said("scribed", (finish) => (finish.kind === "scribed" ? finish.to : null));
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
          ways={FINISHES}
          choose={(to) => {
            scribe(to === "scribed" && made !== "scribed");
            if (to !== "scribed") void set(to === "capped" ? { kind: to, cap: "End cap" } : { kind: to });
          }}
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
            label="Depth behind the line"
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
        {kind === "rounded" && (
          <>
            <Setting label="Rounded at">
              <Pick
                label="Rounded at"
                value={said("rounded", (finish) => (finish as Rounded).edges ?? "sides")}
                various="various"
                ways={EDGES}
                choose={(edges) => void set({ edges })}
              />
            </Setting>
            <LengthField
              label="To a radius of"
              mm={of((finish) => (finish.kind === "rounded" ? (finish.radius ?? 10) : 0))}
              take={(radius) => set({ radius })}
            />
          </>
        )}
        {kind === "posted" && (
          <>
            <LengthField
              label="Width of the post"
              mm={of((finish) => (finish.kind === "posted" ? (finish.size ?? 100) : 0))}
              take={(size) => set({ size })}
            />
            <LengthField
              label="Goes into it"
              mm={of((finish) => (finish.kind === "posted" ? (finish.let_in ?? 0) : 0))}
              take={(let_in) => set({ let_in })}
            />
            <FigureField
              label="Name of the post"
              width="w-[150px]"
              unit=""
              value={said("posted", (finish) => (finish.kind === "posted" ? (finish.name ?? "Post") : "")) ?? ""}
              placeholder="various"
              take={(name) => set({ name })}
            />
            <Choice
              label="The post is counted"
              value={said("posted", (finish) => (finish.kind === "posted" && finish.counted === false ? "no" : "yes"))}
              ways={[
                ["yes", "Counted here"],
                ["no", "By another run"],
              ]}
              choose={(way) => void set({ counted: way === "yes" })}
            />
          </>
        )}
        {kind === "scribed" && (
          <Setting label="To the face of">
            <Pick
              label="To the face of"
              value={to}
              various={scribing ? "choose a run" : "various"}
              ways={beside(shown, runs, shown.job.runs ?? [], to)}
              choose={(other) => {
                void set({ kind: "scribed", to: other }).then((problem) => problem || scribe(false));
              }}
            />
          </Setting>
        )}
        {kind !== "square" || of((finish) => finish.past) !== 0 ? (
          <LengthField label="Let past by" mm={of((finish) => finish.past)} take={(past) => set({ past })} />
        ) : null}
      </div>
    </>
  );
}
