import type { Line, LineFigures } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Button, Choice, Pick, Tick, Words } from "../../ui/choices";
import { LengthField, Setting, TextField } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { Later } from "../../ui/Later";
import { useChanges, useSentence, useShown, useUnits } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { lineById, lineFigures, typicalFigures, typicalOf } from "../../window/things";
import { STANDS } from "../questions";
import { HowMade } from "./HowMade";
import { LegsOfLine } from "./LegsOfLine";
import { OpeningsOfLine } from "./OpeningsOfLine";
import { PaneOfLine } from "./PaneOfLine";
import { StripOfLine } from "./StripOfLine";
import { AtChainage, WorkOnLines } from "./WorkOnLines";

/** How sections may be kept upright along a line. */
const FRAMES = { auto: "by the line", upright: "upright", carried: "minimum twist" };

export function LineCard({ lines }: { lines: Line[] }) {
  const shown = useShown();
  const units = useUnits();
  const { set } = usePart("set");
  const total = lines.reduce((sum, line) => sum + (lineFigures(shown, line.id)?.length ?? 0), 0);
  if (lines.length > 1) {
    return (
      <>
        <h2 className="font-semibold text-lg">{count(lines.length, "line")}</h2>
        <p className="mb-3 text-pencil">{formatLength(total, units)} together</p>
        <div className="flex gap-2">
          <Button strong onClick={() => set({ dialog: "run" })}>
            Run a section along them
          </Button>
          <Button onClick={() => set({ dialog: "row" })}>Set items out</Button>
        </div>
        <WorkOnLines lines={lines} />
      </>
    );
  }
  return <OneLine line={lines[0] as Line} />;
}

/** What a line is, in a few words. */
export function lineWords(line: Line, figures: LineFigures | undefined): string {
  const curves = new Set(figures?.legs.filter((leg) => leg.kind !== "straight").map((leg) => leg.leg)).size;
  const parts: string[] = [line.closed ? "closed" : "open"];
  const corners = figures?.bends.length ?? 0;
  if (corners || !curves) parts.push(count(corners, "corner"));
  if (curves) parts.push(count(curves, "curve"));
  if (line.openings?.length) parts.push(count(line.openings.length, "opening"));
  return parts.join(" · ");
}

function OneLine({ line }: { line: Line }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { set, select, stretches } = usePart("set", "select", "stretches");
  const sentence = useSentence();
  const typical = typicalOf(shown, line.id);
  const figures = lineFigures(shown, line.id);
  const change = (changes: object) => edit([{ kind: "set_line", line: line.id, changes }]);
  const uses = [...(shown.job.runs ?? []), ...(shown.job.rows ?? [])].filter((thing) => thing.line === line.id);
  const follow = (shown.job.lines ?? []).filter(
    (other) =>
      (other.made && "line" in other.made && other.made.line === line.id) ||
      (other.made?.kind === "midway" && other.made.lines.includes(line.id)),
  );
  return (
    <>
      <TextField label="Name of the line" value={line.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        <span className="figure whitespace-nowrap text-ink">{formatLength(figures?.length ?? 0, units)}</span> ·{" "}
        {lineWords(line, figures)}
        {line.source && ` · from ${line.source.file}`}
      </p>
      {typical && (
        <p className="mt-1 text-sm">
          Stands in {count(typicalFigures(shown, typical.id)?.places.length ?? 0, "place")}:{" "}
          <Words onClick={() => select([typical.id])}>{typical.name}, its places</Words>
        </p>
      )}
      {line.undrawn && (
        <p className="mt-2 border-wax border-l-[3px] bg-wax-wash px-3 py-2 text-sm">
          <b className="text-wax-deep">?</b> It is not in {line.undrawn}, which was imported again.{" "}
          <Words onClick={() => void change({ undrawn: "" })}>It stays</Words>
        </p>
      )}
      {figures?.faults.map((fault, index) => (
        <div key={index} className="mt-2 border-wax border-l-[3px] bg-wax-wash px-3 py-2 text-sm">
          <b className="text-wax-deep">?</b> {sentence(fault.what)}{" "}
          <Words onClick={() => void edit([fault.mend])}>{fault.action}</Words> ·{" "}
          <Words onClick={() => useWindow.getState().set({ look: fault.point as [number, number, number] })}>
            Go there
          </Words>
        </div>
      ))}
      <div className="mt-3 flex gap-2">
        <Button strong onClick={() => set({ dialog: "run" })} disabled={!shown.job.sections?.length}>
          {stretches?.length ? "Run along this stretch" : "Run a section"}
        </Button>
        <Button onClick={() => set({ dialog: "row" })}>Set items out</Button>
      </div>
      {!shown.job.sections?.length && (
        <p className="mt-2 text-pencil text-sm">
          There is no section in the job yet.{" "}
          <Words onClick={() => useWindow.getState().show("library")}>Pick one</Words>
        </p>
      )}
      <Later>
        <HowMade line={line} />
        <LegsOfLine line={line} />
        <OpeningsOfLine line={line} length={figures?.length ?? 0} />
        <AtChainage line={line} length={figures?.length ?? 0} />
        <WorkOnLines lines={[line]} />
        <Asked question="Is it closed?" answer={line.closed ? "closed" : "open"}>
          <Choice
            label="Closed"
            value={line.closed ? "closed" : "open"}
            ways={[
              ["open", "Open"],
              ["closed", "Closed"],
            ]}
            choose={(way) => void edit([{ kind: "set_closed", line: line.id, closed: way === "closed" }])}
          />
        </Asked>
        <Asked
          question={STANDS}
          answer={
            line.frame === "upright" || line.frame === "carried"
              ? FRAMES[line.frame]
              : `${FRAMES.auto}: ${figures?.rule ?? ""}`
          }
        >
          <Setting label="Frame">
            <Pick
              label="Frame"
              value={line.frame ?? "auto"}
              ways={Object.entries(FRAMES) as [keyof typeof FRAMES, string][]}
              choose={(frame) => void change({ frame })}
            />
          </Setting>
          <p className="text-pencil text-sm">
            It is {figures?.rule}: {figures?.why}.
            {figures &&
              Math.abs(figures.leftover) > 1e-6 &&
              ` It comes back turned by ${figures.leftover.toFixed(2)}°.`}
          </p>
          {line.closed && figures?.rule === "carried" && (
            <Tick
              label="Spread the remaining twist along it"
              checked={line.spread ?? false}
              set={(spread) => change({ spread })}
            />
          )}
        </Asked>
        <Asked
          question="Is there a wall behind it?"
          answer={line.wall ? `${formatLength(line.wall.height, units)} high, ${line.wall.side} of travel` : "no"}
        >
          <Tick
            label="Show a wall in the drawing (never cut or listed)"
            checked={Boolean(line.wall)}
            set={(on) => change({ wall: on ? { height: 2700, thickness: 150, side: "right" } : null })}
          />
          {line.wall && (
            <>
              <LengthField
                label="Height"
                mm={line.wall.height}
                bound={{ thing: line.id, field: "wall.height" }}
                take={(height) => change({ wall: { height } })}
              />
              <LengthField
                label="Thickness"
                mm={line.wall.thickness}
                bound={{ thing: line.id, field: "wall.thickness" }}
                take={(thickness) => change({ wall: { thickness } })}
              />
              <Choice
                label="Side of the wall"
                value={line.wall.side}
                ways={[
                  ["left", "Left of travel"],
                  ["right", "Right of travel"],
                ]}
                choose={(side) => void change({ wall: { side } })}
              />
            </>
          )}
        </Asked>
        <StripOfLine line={line} area={figures?.strip?.area} joints={figures?.strip?.joints.length} />
        {line.made?.kind !== "frame" && (line.pane || (line.closed && (figures?.heights.length ?? 0) > 0)) && (
          <PaneOfLine line={line} figures={figures?.pane} />
        )}
        {(uses.length > 0 || follow.length > 0) && (
          <Asked question="What follows it?" answer={[...uses, ...follow].map((thing) => thing.name).join(", ")}>
            <ul>
              {[...uses, ...follow].map((thing) => (
                <li key={thing.id}>
                  <Words onClick={() => select([thing.id])}>{thing.name}</Words>
                  {lineById(shown, thing.id) && <span className="text-pencil text-sm"> · line</span>}
                </li>
              ))}
            </ul>
          </Asked>
        )}
      </Later>
    </>
  );
}
