/** Type a line as a walk: distances and turns, with a picture of where it goes and errors that point at their place. */
import { useRef, useState } from "react";
import { type Edit, type Point3, problemOf } from "../api/client";
import { boxOf, fitted, toSheet } from "../sheet/plan/frame";
import { Button, Tick } from "../ui/choices";
import { LengthField, useForm } from "../ui/fields";
import { count, formatAngle, formatLength } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { useChanges, useRehearsal, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { useWalk } from "./walking";

const examples: [string, string][] = [
  ["3000", "go on 3000; “3000 rise 250” climbs on the way"],
  ["right 90, left 45", "turn, in degrees; “heading 30” takes a bearing from north"],
  ["up 2100, down 2100", "go upright"],
  ["round 150", "round the corner made here"],
  ["arc right 90 radius 600", "a curve in line; with “rise” a screw line"],
  ["to (3000; 4000)", "straight to a place"],
  ["arc to (3000; 0)", "an arc in line to a place; “through (x; y)” by a point on it"],
  ["curve (500; 0) (900; 300)", "smooth through places; “sharp (x; y)” makes a corner"],
  ["cord 5200 sag 400", "a catenary, by sag or by length"],
  ["home", "straight back to the start"],
  ["close", "says it is back at the start"],
];

/** A walk that could not be made, kept for when the dialog is opened again. */
let unmade = "";

const SIZE = { width: 300, height: 220 };

export function WalkDialog({ close }: { close: () => void }) {
  const shown = useShown();
  const units = useUnits();
  const { make: send } = useChanges();
  const [text, setText] = useState(unmade);
  const { values, put, settled } = useForm({ start: [0, 0, 0] as Point3 });
  const { start } = values;
  const [keeps, setKeeps] = useState(true);
  const [wrong, setWrong] = useState("");
  const area = useRef<HTMLTextAreaElement>(null);
  const { data, error } = useWalk(text.trim(), start);
  const problem = text.trim() && error ? problemOf(error) : null;
  const walk = text.trim() && !problem ? data : undefined;
  const name = `Line ${(shown.job.lines?.length ?? 0) + 1}`;
  const editsOf = (from: Point3) => [
    { kind: "add_made", name, made: { kind: "walk", text: text.trim(), start: from }, follows: keeps } as Edit,
  ];
  useRehearsal(walk ? editsOf(start) : null);
  const make = async () => {
    const now = await settled();
    if (!now) return;
    const { problem: found } = await send(editsOf(now.start), (ids) => {
      useWindow.getState().selectAlike(ids);
      useWindow.getState().set({ fit: useWindow.getState().fit + 1 });
      close();
    });
    unmade = found ? text : "";
    if (found) setWrong(found.detail);
  };
  const goTo = () => {
    const place = Number(problem?.place);
    if (!area.current || !Number.isFinite(place) || place < 1) return;
    area.current.focus();
    const rest = text.slice(place - 1).search(/[,\n]|$/);
    area.current.setSelectionRange(place - 1, place - 1 + Math.max(1, rest));
  };
  return (
    <Modal title="Type a walk" close={close} wide>
      <div className="grid grid-cols-[1fr_300px] gap-5">
        <div>
          <textarea
            ref={area}
            aria-label="Walk"
            aria-invalid={Boolean(problem)}
            className={`figure h-24 w-full rounded-[3px] border bg-paper px-2 py-1.5 ${problem ? "border-red" : "border-edge"}`}
            value={text}
            placeholder="6 m, right 90, 4 m, right 90, 6 m, home"
            spellCheck={false}
            onChange={(event) => {
              setText(event.target.value);
              setWrong("");
            }}
          />
          {problem && (
            <p role="alert" className="text-red text-sm">
              {problem.detail}{" "}
              <button type="button" className="cursor-pointer underline" onClick={goTo}>
                Show the place
              </button>
            </p>
          )}
          {wrong && (
            <p role="alert" className="text-red text-sm">
              {wrong}
            </p>
          )}
          <dl className="mt-2 grid grid-cols-[150px_1fr] gap-x-2 gap-y-0.5 text-sm">
            {examples.map(([words, what]) => (
              <div key={words} className="contents">
                <dt className="figure">{words}</dt>
                <dd className="text-pencil">{what}</dd>
              </div>
            ))}
          </dl>
          <p className="mt-2 text-pencil text-sm">
            Steps are set apart by commas or new lines; it heads east at first. Lengths are written as everywhere, with
            the measures of the job.
          </p>
        </div>
        <div>
          <Picture walk={walk} />
          <p className="figure h-11 text-sm" role="status">
            {walk && (
              <>
                {count(walk.line.legs.length, "leg")} · {formatLength(walk.length, units)} ·{" "}
                {walk.line.closed ? "closed" : "open"}
                <br />
                <span className="text-pencil">
                  ends at {(walk.end as Point3).map((mm) => formatLength(mm, units)).join("; ")} heading{" "}
                  {formatAngle(walk.heading)}
                </span>
              </>
            )}
          </p>
          {(["East", "North", "Height"] as const).map((name, axis) => (
            <LengthField
              key={name}
              label={`Start, ${name.toLowerCase()}`}
              mm={start[axis] ?? 0}
              take={async (mm) => {
                put((now) => ({ start: now.start.map((old, i) => (i === axis ? mm : old)) as Point3 }));
                return null;
              }}
            />
          ))}
          <Tick label="Remember the walk and follow its measures" checked={keeps} set={setKeeps} />
        </div>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong disabled={!walk} onClick={() => void make()}>
          Make the line
        </Button>
      </div>
    </Modal>
  );
}

/** Where the walk goes: in plan, or from the south where it only rises. */
function Picture({ walk }: { walk: { path: unknown; line: { legs: unknown[] } } | undefined }) {
  const path = (walk?.path as Point3[] | undefined) ?? [];
  const flat = path.length > 0 && Math.max(...path.map((p) => Math.abs(p[1] - (path[0]?.[1] ?? 0)))) < 1;
  const rises = path.some((point) => Math.abs(point[2] - (path[0]?.[2] ?? 0)) > 1);
  const side = flat && rises;
  const points = path.map((point): [number, number] => (side ? [point[0], point[2]] : [point[0], point[1]]));
  const frame = fitted(boxOf(points), SIZE.width, SIZE.height, 24);
  const on = (point: [number, number]) => toSheet(frame, SIZE.width, SIZE.height, ...point).map((px) => px.toFixed(1));
  const first = points[0];
  return (
    <svg {...SIZE} className="border border-rule bg-paper" role="img" aria-label="Where the walk goes">
      {points.length > 1 && (
        <path
          d={`M${points.map((point) => on(point).join(" ")).join("L")}`}
          fill="none"
          stroke="var(--color-chalk)"
          strokeWidth={2.2}
          strokeLinejoin="round"
        />
      )}
      {first && (
        <circle
          cx={on(first)[0]}
          cy={on(first)[1]}
          r={4}
          fill="var(--color-white)"
          stroke="var(--color-chalk)"
          strokeWidth={1.6}
        />
      )}
      <text x={8} y={SIZE.height - 8} fontSize={12} className="fill-pencil">
        {points.length > 1 ? (side ? "seen from the south" : "in plan, from the ring on") : "the line appears here"}
      </text>
    </svg>
  );
}
