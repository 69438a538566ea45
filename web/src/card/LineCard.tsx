import { useState } from "react";
import type { Edit, Line, Point3 } from "../api/client";
import { Button, Choice, LengthField, Pick, Question, Setting, TextField, Tick, Words } from "../ui/fields";
import { count, formatLength } from "../ui/figures";
import { useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { linePoints } from "../window/things";

export function LineCard({ lines }: { lines: Line[] }) {
  const shown = useShown();
  const units = useUnits();
  const { set } = useWindow();
  const total = lines.reduce((sum, line) => sum + (shown.lines.find((one) => one.id === line.id)?.length ?? 0), 0);
  if (lines.length > 1) {
    return (
      <>
        <h2 className="font-semibold text-lg">{count(lines.length, "line")}</h2>
        <p className="mb-3 text-pencil">{formatLength(total, units)} together</p>
        <Button strong onClick={() => set({ dialog: "run" })}>
          Run a section along them
        </Button>
      </>
    );
  }
  return <OneLine line={lines[0] as Line} />;
}

function OneLine({ line }: { line: Line }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { set, select } = useWindow();
  const figures = shown.lines.find((one) => one.id === line.id);
  const change = (changes: object) => edit([{ kind: "set_line", line: line.id, changes } as Edit]);
  const uses = [...(shown.job.runs ?? []), ...(shown.job.rows ?? [])].filter((thing) => thing.line === line.id);
  return (
    <>
      <TextField label="Name of the line" value={line.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        {line.closed ? "closed" : "open"} · {count(figures?.bends.length ?? 0, "corner")} ·{" "}
        {formatLength(figures?.length ?? 0, units)}
        {line.source && ` · from ${line.source.file}`}
      </p>
      <div className="mt-3 flex gap-2">
        <Button strong onClick={() => set({ dialog: "run" })} disabled={!shown.job.sections?.length}>
          Run a section
        </Button>
        <Button onClick={() => set({ dialog: "row" })}>Set items out</Button>
      </div>
      {!shown.job.sections?.length && (
        <p className="mt-2 text-pencil text-sm">
          There is no section in the job yet.{" "}
          <Words onClick={() => useWindow.getState().show("library")}>Pick one</Words>
        </p>
      )}
      <Points line={line} />
      <Question>Is it closed?</Question>
      <Choice
        label="Closed"
        value={line.closed ? "closed" : "open"}
        ways={[
          ["open", "Open"],
          ["closed", "Closed"],
        ]}
        choose={(way) => void edit([{ kind: "set_closed", line: line.id, closed: way === "closed" }])}
      />
      <Question>How do sections stand on it?</Question>
      <Setting label="Frame">
        <Pick
          label="Frame"
          value={line.frame ?? "auto"}
          ways={[
            ["auto", "by the line"],
            ["upright", "upright"],
            ["carried", "carried round"],
          ]}
          choose={(frame) => void change({ frame })}
        />
      </Setting>
      <p className="text-pencil text-sm">
        It is {figures?.rule}: {figures?.why}.
      </p>
      <Question>Is there a wall behind it?</Question>
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
            take={(height) => change({ wall: { ...line.wall, height } })}
          />
          <LengthField
            label="Thickness"
            mm={line.wall.thickness}
            take={(thickness) => change({ wall: { ...line.wall, thickness } })}
          />
          <Choice
            label="Side of the wall"
            value={line.wall.side}
            ways={[
              ["left", "Left of travel"],
              ["right", "Right of travel"],
            ]}
            choose={(side) => void change({ wall: { ...line.wall, side } })}
          />
        </>
      )}
      {uses.length > 0 && (
        <>
          <Question>What follows it?</Question>
          <ul>
            {uses.map((thing) => (
              <li key={thing.id}>
                <Words onClick={() => select([thing.id])}>{thing.name}</Words>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}

/** The line's points, one at a time: go through them, type where they are, put new ones in, take them out. */
function Points({ line }: { line: Line }) {
  const { edit } = useChanges();
  const { point, pickPoint } = useWindow();
  const [after, setAfter] = useState(false);
  const points = linePoints(line);
  const at = Math.min(point ?? 0, points.length - 1);
  const place = points[at] as Point3;
  const move = (axis: number) => (mm: number) => {
    const to = [...place] as Point3;
    to[axis] = mm;
    return edit([{ kind: "move_vertex", line: line.id, index: at, to }]);
  };
  const step = (by: number) => pickPoint((at + by + points.length) % points.length);
  const insert = async () => {
    const next = points[(at + 1) % points.length] as Point3;
    const last = !line.closed && at === points.length - 1;
    const before = points[at - 1] as Point3;
    const where: Point3 = last
      ? [place[0] + (place[0] - before[0]) / 2, place[1] + (place[1] - before[1]) / 2, place[2]]
      : [(place[0] + next[0]) / 2, (place[1] + next[1]) / 2, (place[2] + next[2]) / 2];
    setAfter(true);
    if (!(await edit([{ kind: "insert_vertex", line: line.id, leg: at, at: where }]))) pickPoint(at + 1);
    setAfter(false);
  };
  return (
    <>
      <Question>Where are its points?</Question>
      <div className="mb-1 flex items-center gap-2">
        <Button onClick={() => step(-1)}>‹</Button>
        <span className="figure flex-1 text-center text-sm">
          point {at + 1} of {points.length}
        </span>
        <Button onClick={() => step(1)}>›</Button>
      </div>
      <LengthField key={`x${at}`} label="East" mm={place[0]} take={move(0)} />
      <LengthField key={`y${at}`} label="North" mm={place[1]} take={move(1)} />
      <LengthField key={`z${at}`} label="Height" mm={place[2]} take={move(2)} />
      <div className="mt-1 flex gap-3">
        <Words disabled={after} onClick={() => void insert()}>
          Put a point in after it
        </Words>
        <Words onClick={() => void edit([{ kind: "remove_vertex", line: line.id, index: at }])}>Take it out</Words>
      </div>
    </>
  );
}
