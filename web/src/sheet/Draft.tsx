/** A line being drawn: the legs so far, the next one, and the fields to type it. */
import { useEffect, useRef, useState } from "react";
import type { Edit, Point3 } from "../api/client";
import { problemOf } from "../api/client";
import { Button, readLength } from "../ui/fields";
import { formatAngle, formatLength } from "../ui/figures";
import { useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { type Frame, toSheet } from "./frame";
import { legEnd, turnTo } from "./snap";

export function Draft({
  frame,
  width,
  height,
  pointer,
}: {
  frame: Frame;
  width: number;
  height: number;
  pointer: [number, number] | null;
}) {
  const units = useUnits();
  const draft = useWindow((state) => state.draft) ?? [];
  const last = draft.at(-1);
  const on = (point: readonly number[]) => toSheet(frame, width, height, point[0] ?? 0, point[1] ?? 0);
  const path = draft.map(on);
  const next = pointer && on(pointer);
  const length = last && pointer ? Math.hypot(pointer[0] - last[0], pointer[1] - last[1]) : 0;
  return (
    <g>
      <path
        d={path.length ? `M${path.map((p) => p.join(" ")).join("L")}` : ""}
        fill="none"
        stroke="#2a68a8"
        strokeWidth={2.4}
      />
      {path.map(([x, y], i) => (
        <rect key={i} x={x - 3.5} y={y - 3.5} width={7} height={7} fill="#fff" stroke="#2a68a8" strokeWidth={1.5} />
      ))}
      {draft.slice(1).map((b, i) => {
        const a = draft[i] as Point3;
        const [x, y] = on([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
        return (
          <text
            key={i}
            x={x}
            y={y - 8}
            textAnchor="middle"
            fontSize={12.5}
            className="figure fill-chalk-deep"
            stroke="#fbfaf6"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {formatLength(Math.hypot(b[0] - a[0], b[1] - a[1]), units)}
          </text>
        );
      })}
      {next && (
        <>
          {last && (
            <path
              d={`M${on(last).join(" ")}L${next.join(" ")}`}
              stroke="#2a68a8"
              strokeWidth={1.6}
              strokeDasharray="6 4"
            />
          )}
          <circle cx={next[0]} cy={next[1]} r={5} fill="none" stroke="#b97a14" strokeWidth={1.6} />
          {last && pointer && (
            <text
              x={next[0] + 12}
              y={next[1] - 10}
              fontSize={12.5}
              className="figure fill-wax-deep"
              stroke="#fbfaf6"
              strokeWidth={3}
              paintOrder="stroke"
            >
              {formatLength(length, units)}
              {draft.length > 1 &&
                ` · ${formatAngle(Math.abs(turnTo(draft, pointer[0], pointer[1])))} ${turnTo(draft, pointer[0], pointer[1]) >= 0 ? "right" : "left"}`}
            </text>
          )}
        </>
      )}
    </g>
  );
}

/** The strip at the foot of the sheet: type a leg, step back, close, finish. */
export function Typed({ pointer }: { pointer: [number, number] | null }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { draft, set } = useWindow();
  const [length, setLength] = useState("");
  const [turn, setTurn] = useState("");
  const [wrong, setWrong] = useState("");
  const lengthField = useRef<HTMLInputElement>(null);
  const points = draft ?? [];
  const closedBack = points.length > 3 && points[0]?.every((value, i) => value === points.at(-1)?.[i]);

  const finish = async (closed: boolean) => {
    const around = closedBack ? points.slice(0, -1) : points;
    const close = closed || closedBack;
    if (around.length < (close ? 3 : 2)) {
      setWrong(close ? "A closed line needs at least three points." : "A line needs at least two points.");
      return;
    }
    const [start, ...rest] = around as [Point3, ...Point3[]];
    const ends = close ? [...rest, start] : rest;
    const name = `Line ${(shown.job.lines?.length ?? 0) + 1}`;
    const line = { name, start, legs: ends.map((to) => ({ kind: "straight" as const, to })), closed: close };
    const problem = await edit([{ kind: "add_lines", lines: [line] } as Edit]);
    if (problem) setWrong(problem.detail);
    else set({ draft: null, selected: [`L${(shown.job.last_number ?? 0) + 1}`] });
  };

  // A line that came back to its start is finished at once, and only once.
  const finishNow = useRef(finish);
  finishNow.current = finish;
  useEffect(() => {
    if (closedBack) void finishNow.current(true);
  }, [closedBack]);

  const begin = async () => {
    try {
      const system = units.system ?? "mm";
      const [x, y] = await Promise.all([readLength(length || "0", system), readLength(turn || "0", system)]);
      set({ draft: [[x, y, 0]] });
      setLength("");
      setTurn("");
      setWrong("");
      lengthField.current?.focus();
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
  };
  const take = async () => {
    if (!points.length) {
      if (length.trim() || turn.trim()) await begin();
      return;
    }
    if (!length.trim()) {
      await finish(false);
      return;
    }
    const angle = turn.trim() ? Number(turn.replace("°", "").replace("−", "-")) : null;
    if (angle !== null && !Number.isFinite(angle)) {
      setWrong(`“${turn}” is not an angle: type degrees to the right, or -90 for a square turn to the left.`);
      return;
    }
    // The fields are free at once, so that the next leg can be typed while this one is read.
    const typed = { length, turn };
    setLength("");
    setTurn("");
    setWrong("");
    lengthField.current?.focus();
    try {
      const mm = await readLength(typed.length, units.system ?? "mm");
      if (mm <= 0) throw new Error("A leg needs a length of more than nothing.");
      const from = useWindow.getState().draft ?? [];
      const last = from.at(-1) as Point3;
      set({ draft: [...from, legEnd(from, mm, angle, pointer ?? [last[0] + 1, last[1]])] });
    } catch (error) {
      setLength(typed.length);
      setTurn(typed.turn);
      setWrong(problemOf(error).detail);
    }
  };
  const back = () => set({ draft: (useWindow.getState().draft ?? []).slice(0, -1) });

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const typing = event.target instanceof HTMLInputElement;
      if (event.key === "Escape") {
        event.preventDefault();
        return;
      }
      if (!typing && /^[\d.]$/.test(event.key)) lengthField.current?.focus();
      else if (event.key === "Backspace" && (!typing || (event.target as HTMLInputElement).value === "")) {
        event.preventDefault();
        back();
      } else if (event.key === "Enter" && !typing && !(event.target instanceof HTMLButtonElement)) void take();
      else if (event.key.toLowerCase() === "c" && (!typing || length === "")) {
        event.preventDefault();
        void finish(true);
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });

  const field = "figure h-7 w-24 rounded-[3px] border border-edge bg-paper px-2 text-right";
  return (
    <div className="absolute inset-x-0 bottom-0 border-rule border-t bg-bench px-3.5 py-2">
      {wrong && (
        <p role="alert" className="mb-1 text-red text-sm">
          {wrong}
        </p>
      )}
      <div
        className="flex items-center gap-2.5"
        onKeyDown={(event) => {
          if (event.key === "Enter" && event.target instanceof HTMLInputElement) void take();
        }}
      >
        <span className="text-sm">
          <b>{points.length ? `Leg ${points.length}` : "First point"}</b>
          <span className="text-pencil"> · click, or type</span>
        </span>
        <label className="flex items-center gap-1.5 text-pencil text-sm">
          {points.length ? "Length" : "East"}
          <input
            ref={lengthField}
            className={field}
            value={length}
            autoComplete="off"
            onChange={(event) => setLength(event.target.value)}
          />
        </label>
        <label
          className="flex items-center gap-1.5 text-pencil text-sm"
          title="Degrees to the right of the last leg; to the left with a minus. Left empty, the leg goes toward the pointer."
        >
          {points.length ? "Turn right" : "North"}
          <input
            className={`${field} w-16`}
            value={turn}
            placeholder={points.length ? "pointer" : "0"}
            autoComplete="off"
            onChange={(event) => setTurn(event.target.value)}
          />
        </label>
        <span className="flex-1" />
        <Button onClick={back} disabled={!points.length}>
          Step back
        </Button>
        <Button onClick={() => void finish(true)} disabled={points.length < 3}>
          Close
        </Button>
        <Button onClick={() => set({ draft: null })}>Give up</Button>
        <Button strong onClick={() => void finish(false)} disabled={points.length < 2}>
          Finish
        </Button>
      </div>
    </div>
  );
}
