import type { ReactNode } from "react";
import type { Placing, Point3, Run } from "../../api/client";
import { ruleWords } from "../../setting/LinesOfRule";
import { Asked } from "../../ui/Asked";
import { bendWords } from "../../ui/bends";
import { Choice, Pick, Words } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Question, Setting, TextField } from "../../ui/fields";
import { formatLength, sizeWords } from "../../ui/figures";
import { Later } from "../../ui/Later";
import { useChanges, useSentence, useShown, useUnits } from "../../window/job";
import { datumOrder } from "../../window/keys";
import { useWindow } from "../../window/store";
import { lineById, linePoints, runFigures, sectionById, sectionOfRun, stretchWords } from "../../window/things";
import { MeasuredTo } from "../MeasuredTo";
import { FACING } from "../questions";
import { shared } from "../shared";
import * as answers from "./answers";
import { CornersOfRuns } from "./CornersOfRuns";
import { CurvesOfRuns } from "./CurvesOfRuns";
import { DatumPicture } from "./DatumPicture";
import { datumWords } from "./datums";
import { EndsOfRuns } from "./EndsOfRuns";
import { JointsOfRuns } from "./JointsOfRuns";

type DatumWay = (typeof datumOrder)[number] | "typed";

/** The rule that made a run, and the ways out of it. */
function ByRule({ run }: { run: Run }) {
  const shown = useShown();
  const set = useWindow((state) => state.set);
  const rule = shown.job.rules?.find((one) => one.id === run.rule);
  if (!rule) return null;
  return (
    <p className="mt-2 border-chalk border-l-[3px] bg-chalk-wash px-3 py-1.5 text-sm">
      By rule: {ruleWords(rule)}. What is changed here makes it an exception.{" "}
      <Words onClick={() => set({ dialog: "rules" })}>The rule</Words>
    </p>
  );
}

/** Whether the run's line is set out for it, and the way to let it be. */
function LineOfItsOwn({ run }: { run: Run }) {
  const shown = useShown();
  const { edit } = useChanges();
  const select = useWindow((state) => state.select);
  const made = lineById(shown, run.line)?.made;
  if (made?.kind === "set_out" && made.run === run.id)
    return (
      <p className="mt-1 mb-2 text-pencil text-sm">
        Its line is set out for it, from{" "}
        <Words onClick={() => select([made.line])}>{lineById(shown, made.line)?.name ?? made.line}</Words>:{" "}
        <Words onClick={() => select([run.line])}>how far its faces lie from there</Words>.
      </p>
    );
  const { stand_off = 0, lift = 0, stand_off_of = "datum", lift_of = "datum" } = run.placing ?? {};
  if (stand_off === 0 && lift === 0 && stand_off_of === "datum" && lift_of === "datum") return null;
  return (
    <p className="mt-1 mb-2 text-pencil text-sm">
      Its lengths and the radii of its bends are those of the line, not of the place where its datum lies.{" "}
      <Words onClick={() => void edit([{ kind: "set_line_out", run: run.id }])}>
        Set a line out where its datum lies
      </Words>
    </p>
  );
}

export function RunCard({ runs, checks }: { runs: Run[]; checks: ReactNode }) {
  const shown = useShown();
  const units = useUnits();
  const sentence = useSentence();
  const { edit } = useChanges();
  const piece = useWindow((state) => state.piece);
  const first = runs[0] as Run;
  const one = runs.length === 1;
  const alike = shared(runs, (run) => run.section) !== null && shared(runs, (run) => run.size ?? "") !== null;
  const section = alike
    ? sectionOfRun(shown, first)
    : sectionById(shown, shared(runs, (run) => run.section) ?? undefined);
  const ids = runs.map((run) => run.id);
  const set = (changes: object) => edit([{ kind: "set_placing", runs: ids, changes }]);
  const datumOf = (run: Run) =>
    run.placing?.datum ??
    sectionById(shown, run.section)?.datum ?? { kind: "named" as const, name: "back-foot" as const };
  const datum = shared(runs, datumOf);
  const facing = shared(runs, (run) => run.placing?.facing ?? { kind: "right" as const });
  const facingKind = shared(runs, (run) => run.placing?.facing?.kind ?? "right");
  const figures = runFigures(shown, first.id);
  const picked = one && piece !== null ? figures?.pieces[piece] : undefined;
  const lengthOf = (of: (placing: Placing) => number | undefined) => shared(runs, (run) => of(run.placing ?? {}) ?? 0);
  const various = (value: unknown) => (value === null ? "various" : undefined);
  const toward = () => {
    const points = runs.flatMap((run) => {
      const line = lineById(shown, run.line);
      return line ? linePoints(line) : [];
    });
    const sum = points.reduce((total, point) => [total[0] + point[0], total[1] + point[1]] as [number, number], [
      0, 0,
    ] as [number, number]);
    return {
      kind: "toward" as const,
      point: [Math.round(sum[0] / points.length), Math.round(sum[1] / points.length), 0] as Point3,
    };
  };
  const total = runs.reduce((sum, run) => sum + (shown.totals.runs[run.id]?.line_length ?? 0), 0);
  const bar = runs.reduce((sum, run) => sum + (shown.totals.runs[run.id]?.bar ?? 0), 0);
  return (
    <>
      {one ? (
        <TextField
          label="Name of the run"
          value={first.name}
          take={(name) => edit([{ kind: "set_run", run: first.id, changes: { name } }])}
        />
      ) : (
        <h2 className="font-semibold text-lg">{runs.length} runs</h2>
      )}
      <p className="text-pencil">
        {section ? `${section.name} ${sizeWords(section, units)} · ${section.material}` : "of several sections"}
        {one && ` · ${lineById(shown, first.line)?.name}`}
      </p>

      {checks}
      {one && first.rule && <ByRule run={first} />}

      <div className="mt-2" />
      <Asked question="What sits on the line?" answer={answers.sits(shown, runs, units)}>
        <div className="flex gap-3">
          {section && figures && <DatumPicture section={section} figures={figures} />}
          <div className="min-w-0 flex-1">
            <Setting label="Datum">
              <Pick<DatumWay>
                label="Datum"
                value={datum ? (datum.kind === "point" ? "typed" : (datum.name as DatumWay)) : null}
                various="various"
                ways={[
                  ...datumOrder.map((name): [DatumWay, string] => [name, datumWords[name] ?? name]),
                  ["typed", "typed point"],
                ]}
                choose={(way) =>
                  void set({
                    // The typed point begins where the datum was.
                    datum: way === "typed" ? { kind: "point" } : { kind: "named", name: way },
                  })
                }
              />
            </Setting>
            {datum?.kind === "point" && (
              <>
                <LengthField
                  label="Across"
                  width="w-16"
                  mm={datum.x}
                  take={(x) => set({ datum: { kind: "point", x } })}
                />
                <LengthField label="Up" width="w-16" mm={datum.y} take={(y) => set({ datum: { kind: "point", y } })} />
              </>
            )}
            <MeasuredTo
              value={{
                stand_off: lengthOf((p) => p.stand_off),
                lift: lengthOf((p) => p.lift),
                stand_off_of: shared(runs, (run) => run.placing?.stand_off_of ?? "datum"),
                lift_of: shared(runs, (run) => run.placing?.lift_of ?? "datum"),
              }}
              bound={one ? { thing: first.id, path: "placing" } : undefined}
              various={various}
              set={set}
            />
          </div>
        </div>
        {one && <LineOfItsOwn run={first} />}
        <AngleField label="Roll" degrees={lengthOf((p) => p.roll)} take={(roll) => set({ roll })} />
      </Asked>

      <Later>
        <Asked question={FACING} answer={answers.faces(runs)}>
          <Choice
            label="Facing"
            value={facingKind === "room" || facingKind === "wall" ? null : facingKind}
            ways={[
              ["left", "Left"],
              ["right", "Right"],
              ["toward", "To a point"],
            ]}
            choose={(kind) => void set({ facing: kind === "toward" ? toward() : { kind } })}
          />
          <div className="mt-1" />
          <Choice
            label="Facing by what is there"
            value={facingKind === "room" || facingKind === "wall" ? facingKind : null}
            ways={[
              ["room", "Into the room"],
              ["wall", "Away from the wall"],
            ]}
            choose={(kind) =>
              void set({
                facing: kind === "room" ? { kind, lines: [...new Set(runs.map((run) => run.line))] } : { kind },
              })
            }
          />
          {facing?.kind === "room" && (
            <p className="mt-1 text-pencil text-xs">
              {(facing.lines?.length ?? 0) > 1
                ? `The room that ${(facing.lines ?? []).map((id) => lineById(shown, id)?.name ?? "a line that is gone").join(", ")} bound together.`
                : "The room that its line bounds. Select the runs of all its walls together to face the room between them."}
            </p>
          )}
          {facing?.kind === "toward" && (
            <div className="mt-2">
              <LengthField
                label="East of the job's origin"
                mm={facing.point[0] as number}
                take={(x) => set({ facing: { point: [x, null, null] } })}
              />
              <LengthField
                label="North of it"
                mm={facing.point[1] as number}
                take={(y) => set({ facing: { point: [null, y, null] } })}
              />
            </div>
          )}
          <div className="mt-1.5">
            <Setting label="Section's hand">
              <span className="w-[150px]">
                <Choice
                  label="Hand"
                  value={shared(runs, (run) => run.placing?.hand ?? "right")}
                  ways={[
                    ["right", "as drawn"],
                    ["left", "mirrored"],
                  ]}
                  choose={(hand) => void set({ hand })}
                />
              </span>
            </Setting>
          </div>
        </Asked>
        {!one && (
          <Setting label="Give all the settings of">
            <Pick
              label="Give all the settings of"
              value={null}
              various="one of them"
              ways={runs.map((run): [string, string] => [run.id, run.name])}
              choose={(run) => void edit([{ kind: "give_settings", run, runs: ids.filter((id) => id !== run) }])}
            />
          </Setting>
        )}

        <CornersOfRuns runs={runs} />
        <EndsOfRuns runs={runs} />
        <CurvesOfRuns runs={runs} />
        <JointsOfRuns runs={runs} />

        {runs.some((run) => lineById(shown, run.line)?.openings?.length) && (
          <Asked question="What does it do at openings?" answer={answers.openings(runs)}>
            <Choice
              label="At openings"
              value={shared(runs, (run) => run.openings ?? "break")}
              ways={[
                ["break", "Breaks"],
                ["pass", "Passes over"],
              ]}
              choose={(openings) => void edit(ids.map((run) => ({ kind: "set_run", run, changes: { openings } })))}
            />
            {one && first.stretches && (
              <p className="mt-1 text-sm">
                Only {first.stretches.map((one) => stretchWords(shown, first.line, one)).join(" and ")}.{" "}
                <Words onClick={() => void edit([{ kind: "set_run", run: first.id, changes: { stretches: null } }])}>
                  Along the whole line
                </Words>
              </p>
            )}
          </Asked>
        )}

        <Asked question="What is it cut from?" answer={answers.cutFrom(shown, runs, units)}>
          <Setting label="Section">
            <Pick
              label="Section"
              value={shared(runs, (run) => run.section)}
              various="various"
              ways={(shown.job.sections ?? []).map((one): [string, string] => [one.id, one.name])}
              choose={(id) => void edit(ids.map((run) => ({ kind: "set_run", run, changes: { section: id } })))}
            />
          </Setting>
          {(sectionById(shown, section?.id)?.range?.length ?? 0) > 0 && (
            <Setting label="Size">
              <Pick
                label="Size"
                value={shared(runs, (run) => run.size ?? "")}
                various="various"
                ways={[
                  ["", "as it stands"],
                  ...(sectionById(shown, section?.id)?.range ?? []).map((row): [string, string] => [
                    row.name,
                    row.name,
                  ]),
                ]}
                choose={(size) =>
                  void edit(ids.map((run) => ({ kind: "set_run", run, changes: { size: size || null } })))
                }
              />
            </Setting>
          )}
          {one && (
            <FigureField
              label="Letters for tags"
              width="w-16"
              value={first.tag}
              unit=""
              take={(tag) => edit([{ kind: "set_run", run: first.id, changes: { tag: tag.trim().toUpperCase() } }])}
            />
          )}
          {runs.some((run) => run.numbers?.length) && (
            <p className="mt-1 text-pencil text-sm">
              Pieces keep their numbers whatever is done to others.{" "}
              <Words onClick={() => void edit([{ kind: "number_anew", runs: ids }])}>Renumber them</Words>
            </p>
          )}
        </Asked>
        <div className="mt-2" />
        <Setting label="Length on line">
          <span className="figure">{formatLength(total, units)}</span>
        </Setting>
        <Setting label="Sum of long points">
          <span className="figure">{formatLength(bar, units)}</span>
        </Setting>
        {picked && (
          <>
            <Question>Piece {picked.tag}</Question>
            <Setting label="Long point">
              <b className="figure">{formatLength(picked.long_point, units)}</b>
            </Setting>
            <Setting label="Short point">
              <span className="figure">{formatLength(picked.short_point, units)}</span>
            </Setting>
            {picked.bends.length > 0 && <p className="text-sm">{bendWords(picked.bends, units)}</p>}
            <Setting label="Begins with">
              <span className="figure">{sentence(picked.begin_cut)}</span>
            </Setting>
            <Setting label="Ends with">
              <span className="figure">{sentence(picked.end_cut)}</span>
            </Setting>
            {one && <NoteOfPiece run={first} tag={picked.tag} />}
          </>
        )}
      </Later>
    </>
  );
}

/** What the workshop is to know of a piece. */
function NoteOfPiece({ run, tag }: { run: Run; tag: string }) {
  const { edit } = useChanges();
  const number = Number(tag.slice(run.tag.length));
  return (
    <FigureField
      label="Note"
      width="w-[210px]"
      unit=""
      placeholder="none"
      value={run.notes?.find((note) => note.number === number)?.text ?? ""}
      take={(text) => edit([{ kind: "set_note", run: run.id, numbers: [number], text: text.trim() || null }])}
    />
  );
}
