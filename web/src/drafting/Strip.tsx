/** The strip at the foot of the sheet while a line is drawn: type a leg, choose its kind, step back, close, finish. */
import { useContext, useEffect, useRef, useState } from "react";
import { type Edit, type Point3, problemOf } from "../api/client";
import type { View } from "../sheet/plane";
import { Button, Pick } from "../ui/choices";
import { readLength } from "../ui/fields";
import { JobId, useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { type DraftLine, inTurn, modes, stepBack, useDraftWalk, useWalkNow, withPoint, withSharp } from "./draft";
import { legEnd } from "./snap";

interface Props {
  pointer: [number, number] | null;
  view: View;
  upright: boolean;
}

type Field = "first" | "second" | "third";

/** What the three typed fields mean for each way of drawing. */
function fieldNames(draft: DraftLine, upright: boolean): Record<Field, string> {
  if (!draft.start) return { first: "East", second: "North", third: "Height" };
  if (draft.mode === "arc") return { first: "Radius", second: "Turn right", third: "Rise" };
  if (draft.mode === "cord") return { first: "Sag", second: "", third: "" };
  if (draft.mode === "straight")
    return { first: "Length", second: upright ? "Angle up" : "Turn right", third: upright ? "" : "Rise" };
  return { first: "", second: "", third: "" };
}

export function Strip({ pointer, view, upright }: Props) {
  const shown = useShown();
  const units = useUnits();
  const job = useContext(JobId);
  const { edit } = useChanges();
  const set = useWindow((state) => state.set);
  const { draft, walk, error } = useDraftWalk();
  const walkNow = useWalkNow();
  const [typed, setTyped] = useState<Record<Field, string>>({ first: "", second: "", third: "" });
  const [wrong, setWrong] = useState("");
  const firstField = useRef<HTMLInputElement>(null);
  const system = units.system ?? "mm";
  const count = walk?.line.legs.length ?? 0;

  const finished = async (closed: boolean) => {
    const now = useWindow.getState().draft;
    if (!now) return;
    const done = await walkNow(now);
    if (!done) {
      setWrong("A line needs at least two points.");
      return;
    }
    if (closed && !done.line.closed && !now.steps.includes("home")) {
      if (done.line.legs.length < 2) {
        setWrong("A closed line needs at least three points, or curves.");
        return;
      }
      set({ draft: { ...now, steps: [...now.steps, "home"], curve: [] } });
      return;
    }
    const name = `Line ${(shown.job.lines?.length ?? 0) + 1}`;
    const problem = await edit([{ kind: "add_lines", lines: [{ ...done.line, name }] } as Edit]);
    if (problem) setWrong(problem.detail);
    else set({ draft: null, selected: [`L${(shown.job.last_number ?? 0) + 1}`] });
  };
  const finish = (closed: boolean) =>
    inTurn(() => finished(closed)).catch((failed) => setWrong(problemOf(failed).detail));

  // A line that came back to its start is finished at once, and only once.
  const finishNow = useRef(finish);
  finishNow.current = finish;
  const back = walk?.line.closed ?? false;
  useEffect(() => {
    if (back) void finishNow.current(true);
  }, [back]);

  const read = (text: string, empty = "0") => readLength(text.trim() || empty, system, job);
  const angleOf = (text: string): number | null => {
    if (!text.trim()) return null;
    const angle = Number(text.replace("°", "").replace("−", "-"));
    if (!Number.isFinite(angle))
      throw new Error(`“${text}” is not an angle: type degrees, or -90 for a square turn to the left.`);
    return angle;
  };

  const taken = async (now: DraftLine, fields: Record<Field, string>): Promise<DraftLine> => {
    if (!now.start) {
      const [x, y, z] = await Promise.all([read(fields.first), read(fields.second), read(fields.third)]);
      return withPoint(now, [x, y, z]);
    }
    const before = await walkNow(now);
    const at = (before?.end as Point3 | undefined) ?? now.start;
    const heading = before?.turned ?? null;
    if (now.mode === "arc") {
      const [radius, rise] = [await read(fields.first), await read(fields.third)];
      const turn = angleOf(fields.second) ?? 90;
      if (radius <= 0 || turn === 0) throw new Error("An arc needs a radius and a turn of more than nothing.");
      const up = rise ? ` rise ${rise} mm` : "";
      const step = `arc ${turn > 0 ? "right" : "left"} ${Math.abs(turn)} radius ${radius} mm${up}`;
      return { ...now, steps: [...now.steps, step], curve: [] };
    }
    if (now.mode === "cord") {
      const sag = await read(fields.first);
      if (sag <= 0) throw new Error("A cord sags by more than nothing.");
      return { ...now, sag: `${sag} mm` };
    }
    const mm = await read(fields.first);
    if (mm <= 0) throw new Error("A leg needs a length of more than nothing.");
    const angle = angleOf(fields.second);
    const flat = view.to(at);
    if (upright) {
      const [x, y] = legEnd(flat, 0, mm, angle === null ? null : -angle, pointer ?? [flat[0] + 1, flat[1]]);
      return withPoint(now, view.from(x, y, flat[2]));
    }
    const [x, y] = legEnd(at, heading, mm, angle, pointer ?? [at[0] + 1, at[1]]);
    const rise = await read(fields.third);
    return { ...withPoint(now, [x, y, at[2] + rise]), height: at[2] + rise };
  };

  const take = async () => {
    const now = useWindow.getState().draft;
    if (!now) return;
    const any = Object.values(typed).some((text) => text.trim());
    if (!any) {
      if (now.start) await finish(false);
      return;
    }
    // The fields are free at once, so that the next leg can be typed while this one is read.
    const fields = typed;
    setTyped({ first: "", second: "", third: "" });
    setWrong("");
    firstField.current?.focus();
    await inTurn(async () => {
      const then = useWindow.getState().draft;
      if (then) set({ draft: await taken(then, fields) });
    }).catch((failed) => {
      setTyped(fields);
      setWrong(problemOf(failed).detail);
    });
  };
  const undo = () => {
    const now = useWindow.getState().draft;
    if (now) set({ draft: stepBack(now) });
  };

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const now = useWindow.getState().draft;
      const typing = event.target instanceof HTMLInputElement;
      if (event.key === "Escape") {
        event.preventDefault();
        return;
      }
      if (!typing && /^[\d.]$/.test(event.key)) firstField.current?.focus();
      else if (event.key === "Backspace" && (!typing || (event.target as HTMLInputElement).value === "")) {
        event.preventDefault();
        undo();
      } else if (event.key === "Enter" && !typing && !(event.target instanceof HTMLButtonElement)) void take();
      else if (event.key.toLowerCase() === "c" && (!typing || typed.first === "")) {
        event.preventDefault();
        void finish(true);
      } else if (event.key.toLowerCase() === "s" && !typing && now) {
        event.preventDefault();
        set({ draft: withSharp(now) });
      } else if (event.key.toLowerCase() === "m" && !typing && now) {
        event.preventDefault();
        const at = modes.findIndex(([mode]) => mode === now.mode);
        set({ draft: { ...now, mode: modes[(at + 1) % modes.length]?.[0] ?? "straight", via: null, curve: [] } });
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });

  if (!draft) return null;
  const names = fieldNames(draft, upright);
  const told = wrong || (error ? problemOf(error).detail : "");
  const field = "figure h-7 rounded-[3px] border border-edge bg-paper px-2 text-right";
  const widths: Record<Field, string> = { first: "w-24", second: "w-16", third: "w-16" };
  return (
    <div className="absolute inset-x-0 bottom-0 border-rule border-t bg-bench px-3.5 py-2">
      {told && (
        <p role="alert" className="mb-1 text-red text-sm">
          {told}
        </p>
      )}
      <div
        className="flex items-center gap-2.5"
        onKeyDown={(event) => {
          if (event.key === "Enter" && event.target instanceof HTMLInputElement) void take();
        }}
      >
        <span className="whitespace-nowrap text-sm">
          <b>{draft.start ? `Leg ${count + 1}` : "First point"}</b>
          <span className="text-pencil"> · click, or type</span>
        </span>
        {draft.start && (
          <Pick
            label="Kind of leg"
            value={draft.mode}
            ways={modes}
            choose={(mode) => set({ draft: { ...draft, mode, via: null, curve: [] } })}
          />
        )}
        {(["first", "second", "third"] as const).map((name) =>
          names[name] ? (
            <label key={name} className="flex items-center gap-1.5 whitespace-nowrap text-pencil text-sm">
              {names[name]}
              <input
                ref={name === "first" ? firstField : undefined}
                className={`${field} ${widths[name]}`}
                value={typed[name]}
                placeholder={placeholder(draft, name)}
                autoComplete="off"
                onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
              />
            </label>
          ) : null,
        )}
        {draft.mode === "curve" && draft.curve.length > 0 && (
          <span className="text-pencil text-sm">
            <kbd>S</kbd> {draft.curve.at(-1)?.sharp ? "smooth" : "sharp"} at the last point
          </span>
        )}
        {draft.mode === "bulge" && (
          <span className="text-pencil text-sm">{draft.via ? "click where it ends" : "click a point on the arc"}</span>
        )}
        <span className="flex-1" />
        <Button onClick={undo} disabled={!draft.start}>
          Step back
        </Button>
        <Button onClick={() => void finish(true)} disabled={count < 2}>
          Close
        </Button>
        <Button onClick={() => set({ draft: null })}>Give up</Button>
        <Button strong onClick={() => void finish(false)} disabled={count < 1}>
          Finish
        </Button>
      </div>
    </div>
  );
}

function placeholder(draft: DraftLine, name: Field): string {
  if (!draft.start) return name === "first" ? "" : "0";
  if (draft.mode === "cord") return draft.sag;
  if (name === "second") return draft.mode === "arc" ? "90" : "pointer";
  return name === "third" ? "0" : "";
}
