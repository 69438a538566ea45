/** How the curves of runs are made: bent in one, of facets, laminated, kerfed, or sawn from boards. */
import { type Problem, problemOf, type Run } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick } from "../../ui/choices";
import { CountField, FigureField, LengthField, Setting } from "../../ui/fields";
import { formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { lineById, runFigures } from "../../window/things";
import { CURVES } from "../questions";
import { shared } from "../shared";
import { curves } from "./answers";
import { CURVES_MADE } from "./ways";

type Made = NonNullable<Run["curves"]>;
type Of<Kind extends Made["kind"]> = Extract<Made, { kind: Kind }>;

export function CurvesOfRuns({ runs }: { runs: Run[] }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const curved = runs.some((run) =>
    lineById(shown, run.line)?.legs.some((leg) => leg.kind !== "straight" || leg.round),
  );
  if (!curved) return null;
  const set = (changes: object): Promise<Problem | null> =>
    edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { curves: changes } })));
  const kind = shared(runs, (run) => run.curves?.kind ?? "bent");
  /** A figure of the way that all of them are made in; nothing where they differ. */
  const of = <Kind extends Made["kind"], T>(of: Kind, get: (made: Of<Kind>) => T): T | null =>
    shared(runs, (run) => (run.curves?.kind === of ? get(run.curves as Of<Kind>) : (null as T)));
  const strays = Math.max(0, ...runs.map((run) => runFigures(shown, run.id)?.strays ?? 0));
  const counted = of("faceted", (made) => made.number ?? null) !== null;
  return (
    <Asked question={CURVES} answer={curves(runs)}>
      <Setting label="Curves">
        <Pick
          label="Curves"
          value={kind}
          various="various"
          ways={CURVES_MADE}
          choose={(to) => void set({ kind: to })}
        />
      </Setting>
      <div className="border-rule border-l-[3px] pl-2.5">
        {kind === "bent" && (
          <LengthField
            label="Bends no tighter than"
            mm={of("bent", (made) => made.least || null)}
            placeholder="any radius"
            take={(least) => set({ least })}
          />
        )}
        {kind === "faceted" && (
          <>
            <Choice
              label="Facets by"
              value={counted ? "number" : "deviation"}
              ways={[
                ["number", "How many"],
                ["deviation", "How far off"],
              ]}
              choose={(by) =>
                void set(by === "number" ? { number: 12, deviation: null } : { number: null, deviation: 5 })
              }
            />
            {counted ? (
              <CountField
                label="Facets a curve"
                value={of("faceted", (made) => made.number ?? 1) ?? 1}
                take={(number) => set({ number })}
              />
            ) : (
              <LengthField
                label="Maximum deviation"
                mm={of("faceted", (made) => made.deviation ?? null)}
                take={(deviation) => set({ deviation })}
              />
            )}
            <Choice
              label="Their lengths"
              value={of("faceted", (made) => made.fit ?? "equal")}
              ways={[
                ["equal", "Equal, on the line"],
                ["fitted", "Fitted to it"],
              ]}
              choose={(fit) => void set({ fit })}
            />
            {strays > 0 && (
              <p className="text-pencil text-sm">
                Off the curve by up to{" "}
                <span className="figure text-ink">
                  {formatLength(strays, { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 })}
                </span>
                {of("faceted", (made) => made.fit) === "fitted"
                  ? ", at their corners, which all turn alike; half a facet at both ends goes on in line."
                  : ", their corners on the line."}
              </p>
            )}
          </>
        )}
        {kind === "laminated" && (
          <>
            <LengthField
              label="Leaves at most"
              mm={of("laminated", (made) => made.leaf)}
              take={(leaf) => set({ leaf })}
            />
            <LengthField
              label="For clamps, each end"
              mm={of("laminated", (made) => made.allowance ?? 50)}
              take={(allowance) => set({ allowance })}
            />
            <FigureField
              label="Radius over thickness"
              width="w-[92px]"
              unit="×"
              value={String(of("laminated", (made) => made.ratio ?? 100) ?? "")}
              placeholder="various"
              take={async (text) => {
                const ratio = Number(text.trim().replace(",", "."));
                return ratio >= 1 && ratio <= 1000
                  ? set({ ratio })
                  : problemOf(new Error("Give how many times its thickness the radius is, from 1 to 1000."));
              }}
            />
          </>
        )}
        {kind === "kerfed" && (
          <>
            <LengthField
              label="Kerf of the saw"
              mm={of("kerfed", (made) => made.kerf)}
              take={(kerf) => set({ kerf })}
            />
            <LengthField label="Web left uncut" mm={of("kerfed", (made) => made.web)} take={(web) => set({ web })} />
          </>
        )}
        {kind === "sawn" && (
          <LengthField
            label="Width of the boards"
            mm={of("sawn", (made) => made.board)}
            take={(board) => set({ board })}
          />
        )}
      </div>
    </Asked>
  );
}
