/** Whether the pieces of runs are jointed, from which bars, how, and where the joints come. */
import { type JobShown, type Problem, problemOf, type Run } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick, Words } from "../../ui/choices";
import { FigureField, LengthField, readTyped, Setting } from "../../ui/fields";
import { count, fieldLength, unitWord } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { sectionById } from "../../window/things";
import { JOINTS } from "../questions";
import { shared } from "../shared";
import { joints } from "./answers";
import { beside } from "./beside";
import { JOINT_KINDS } from "./ways";

type Joints = NonNullable<Run["joints"]>;

/** Bars that a section is sold in where no supplier says: common practice, no source. */
const USUAL = [4200];

const PLACES: [NonNullable<Joints["placed"]>, string][] = [
  ["equal", "in equal parts"],
  ["full", "full bars first"],
  ["waste", "with the least waste"],
];

/** Where joints come that go by no row: a word of the service, or the id of a row. */
const OVER: [string, string][] = [
  ["anywhere", "anywhere"],
  ["marks", "over the line's marks"],
  ["openings", "over its openings"],
];
const NONE = "none";

function jointedRuns(shown: JobShown): Run[] {
  return (shown.job.runs ?? []).filter((run) => run.joints);
}

export function JointsOfRuns({ runs }: { runs: Run[] }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const set = (changesOf: (run: Run) => object | null): Promise<Problem | null> =>
    edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { joints: changesOf(run) } })));
  const all = (changes: object) => set(() => changes);
  const jointed = shared(runs, (run) => Boolean(run.joints));
  const of = <T,>(get: (joints: Joints) => T | undefined, usual: T): T | null =>
    shared(runs, (run) => (run.joints ? (get(run.joints) ?? usual) : usual));
  const bars = of((joints) => joints.bars, USUAL);
  const kind = of((joints) => joints.made, "butt");
  const over = of((joints) => (joints.over === "items" ? (joints.row ?? "") : joints.over), "anywhere" as string);
  const offFrom = of((joints) => joints.off_from ?? NONE, NONE);
  const byHand = runs.filter((run) => run.joints?.at);
  return (
    <Asked question={JOINTS} answer={joints(runs, units)}>
      <Choice
        label="Long pieces"
        value={jointed === null ? null : jointed ? "jointed" : "whole"}
        ways={[
          ["whole", "In one length"],
          ["jointed", "Jointed"],
        ]}
        choose={(way) =>
          void set((run) =>
            way === "whole" ? null : (run.joints ?? { bars: sectionById(shown, run.section)?.stock?.lengths ?? USUAL }),
          )
        }
      />
      {jointed && (
        <div className="mt-1.5">
          <FigureField
            label="From bars"
            width="w-[130px]"
            value={bars === null ? "" : bars.map((bar) => fieldLength(bar, units)).join(" · ")}
            placeholder={bars === null ? "various" : undefined}
            unit={units.system === "ft-in" ? undefined : unitWord(units)}
            take={async (text) => {
              try {
                const words = text.split(/[·;]|,\s+|\s{1,}and\s{1,}/).filter((word) => word.trim());
                const read = await Promise.all(words.map((word) => readTyped(word.trim(), units.system ?? "mm")));
                return await all({ bars: read.map((one) => one.mm) });
              } catch (error) {
                return problemOf(error);
              }
            }}
          />
          <Setting label="Joint">
            <Pick
              label="Joint"
              value={kind}
              various="various"
              ways={JOINT_KINDS}
              choose={(to) => void all({ made: to })}
            />
          </Setting>
          {kind === "scarf" && (
            <FigureField
              label="One in"
              value={String(of((joints) => joints.slope, 8) ?? "")}
              unit=""
              take={async (text) => {
                const slope = Number(text.trim().replace(",", "."));
                return Number.isFinite(slope) && slope >= 1
                  ? all({ slope })
                  : problemOf(
                      new Error(
                        `“${text}” is not a slope: type how many times the thickness a scarf is long, such as 8.`,
                      ),
                    );
              }}
            />
          )}
          {(kind === "finger" || kind === "socket") && (
            <LengthField label="Overlap" mm={of((joints) => joints.overlap, 0)} take={(overlap) => all({ overlap })} />
          )}
          <Setting label="Placed">
            <Pick
              label="Joints placed"
              value={of((joints) => joints.placed, "equal")}
              various="various"
              ways={PLACES}
              choose={(placed) => void all({ placed, at: null })}
            />
          </Setting>
          <LengthField label="Shortest part" mm={of((joints) => joints.least, 0)} take={(least) => all({ least })} />
          <LengthField label="Clear of corners" mm={of((joints) => joints.clear, 0)} take={(clear) => all({ clear })} />
          <LengthField label="Staggered by" mm={of((joints) => joints.shift, 0)} take={(shift) => all({ shift })} />
          <Setting label="Joints come">
            <Pick
              label="Joints come"
              value={over}
              various="various"
              ways={[
                ...OVER,
                ...beside(shown, runs, shown.job.rows ?? [], over).map(([id, name]): [string, string] => [
                  id,
                  `over ${name}`,
                ]),
              ]}
              choose={(to) =>
                void all(
                  OVER.some(([way]) => way === to)
                    ? { over: to, row: null, at: null }
                    : { over: "items", row: to, at: null },
                )
              }
            />
          </Setting>
          <Setting label="Keep off those of">
            <Pick
              label="Keep off those of"
              value={offFrom}
              various="various"
              ways={[[NONE, "no other run"], ...beside(shown, runs, jointedRuns(shown), offFrom)]}
              choose={(to) => void all({ off_from: to === NONE ? null : to, at: null })}
            />
          </Setting>
          {offFrom !== NONE && (
            <LengthField
              label="At least apart"
              mm={of((joints) => joints.apart, 300)}
              take={(apart) => all({ apart })}
            />
          )}
          {byHand.length > 0 && (
            <p className="mt-1 text-sm">
              {runs.length === 1 ? "The joints are" : `Those of ${count(byHand.length, "run")} are`} placed by hand.{" "}
              <Words onClick={() => void all({ at: null })}>By rule again</Words>
            </p>
          )}
        </div>
      )}
    </Asked>
  );
}
