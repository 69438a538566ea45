/** The strip at the foot of the sheet while a line is drawn: type a leg, choose its kind, step back, close, finish. */
import { useContext, useEffect, useRef, useState } from "react";
import { type Edit, type Point3, problemOf, type WalkShown } from "../api/client";
import type { View } from "../sheet/elevation/plane";
import { Button, Pick } from "../ui/choices";
import { readLength } from "../ui/fields";
import { JobId, useChanges, useRehearsal, useShown, useUnits } from "../window/job";
import { type DraftLine, type Mode, useWindow } from "../window/store";
import { modes, stepBack, withPoint, withSharp } from "./draft";
import { legEnd } from "./snap";
import { inTurn, useDraftWalk, useWalkNow } from "./walking";

interface Props {
  pointer: [number, number] | null;
  view: View;
  upright: boolean;
}

const PLACE = ["East", "North", "Height"];

/** What the typed fields mean for each way of drawing. */
function fieldNames(draft: DraftLine, upright: boolean): string[] {
  if (!draft.start) return PLACE;
  if (draft.mode === "arc") return ["Radius", "Turn right", "Rise"];
  if (draft.mode === "cord") return ["Sag", ...PLACE];
  if (draft.mode === "straight") return upright ? ["Length", "Angle up"] : ["Length", "Turn right", "Rise"];
  return PLACE;
}

export function Strip({ pointer, view, upright }: Props) {
  const shown = useShown();
  const units = useUnits();
  const job = useContext(JobId);
  const { make } = useChanges();
  const set = useWindow((state) => state.set);
  const letters = useWindow((state) => state.letters);
  const { draft, walk, error } = useDraftWalk();
  const walkNow = useWalkNow();
  const [typed, setTyped] = useState<string[]>([]);
  const [wrong, setWrong] = useState("");
  const firstField = useRef<HTMLInputElement>(null);
  const system = units.system ?? "mm";
  const count = walk?.line.legs.length ?? 0;

  const name = `Line ${(shown.job.lines?.length ?? 0) + 1}`;
  const editsOf = ({ line }: WalkShown) => [{ kind: "add_lines", lines: [{ ...line, name }] } as Edit];
  useRehearsal(walk ? editsOf(walk) : null);

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
    const { problem } = await make(editsOf(done), (made) => set({ draft: null, selected: made }));
    if (!problem) return;
    set({ draft: now });
    setWrong(problem.detail);
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

  /** The place that is typed; a coordinate left out is that of where the draft has come to. */
  const placeTyped = async (texts: string[], from: Point3): Promise<Point3> => {
    const [x, y, z] = await Promise.all(from.map((old, i) => (texts[i]?.trim() ? read(texts[i] ?? "") : old)));
    return [x ?? 0, y ?? 0, z ?? 0];
  };

  const taken = async (now: DraftLine, fields: string[]): Promise<DraftLine> => {
    const [first = "", second = "", third = ""] = fields;
    if (!now.start) return withPoint(now, await placeTyped(fields, [0, 0, 0]));
    const before = await walkNow(now);
    const at = (before?.end as Point3 | undefined) ?? now.start;
    const heading = before?.turned ?? null;
    if (now.mode === "arc") {
      const [radius, rise] = [await read(first), await read(third)];
      const turn = angleOf(second) ?? 90;
      if (radius <= 0 || turn === 0) throw new Error("An arc needs a radius and a turn greater than zero.");
      const up = rise ? ` rise ${rise} mm` : "";
      const step = `arc ${turn > 0 ? "right" : "left"} ${Math.abs(turn)} radius ${radius} mm${up}`;
      return { ...now, steps: [...now.steps, step], curve: [] };
    }
    if (now.mode === "cord") {
      const sag = first.trim() ? await read(first) : null;
      if (sag !== null && sag <= 0) throw new Error("The sag of a cord must be greater than zero.");
      const hung = sag === null ? now : { ...now, sag: `${sag} mm` };
      const place = fields.slice(1);
      return place.some((text) => text.trim()) ? withPoint(hung, await placeTyped(place, at)) : hung;
    }
    if (now.mode === "curve" || now.mode === "bulge") return withPoint(now, await placeTyped(fields, at));
    const mm = await read(first);
    if (mm <= 0) throw new Error("A leg needs a length greater than zero.");
    const angle = angleOf(second);
    const flat = view.to(at);
    if (upright) {
      const [x, y] = legEnd(flat, 0, mm, angle === null ? null : -angle, pointer ?? [flat[0] + 1, flat[1]]);
      return withPoint(now, view.from(x, y, flat[2]));
    }
    const [x, y] = legEnd(at, heading, mm, angle, pointer ?? [at[0] + 1, at[1]]);
    const rise = await read(third);
    return { ...withPoint(now, [x, y, at[2] + rise]), height: at[2] + rise };
  };

  const take = async () => {
    const now = useWindow.getState().draft;
    if (!now) return;
    const any = typed.some((text) => text?.trim());
    if (!any) {
      if (now.start) await finish(false);
      return;
    }
    // The fields are free at once, so that the next leg can be typed while this one is read.
    const fields = typed;
    setTyped([]);
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
  /** Change the draft once what was typed and clicked before has been taken. */
  const change = (how: (now: DraftLine) => DraftLine) =>
    void inTurn(async () => {
      const now = useWindow.getState().draft;
      if (now) set({ draft: how(now) });
    });
  const undo = () => change(stepBack);
  const choose = (mode: Mode) => {
    setTyped([]);
    change((now) => ({ ...now, mode, via: null, curve: [] }));
  };

  /** Whether it is the first field that has the keys, with nothing typed in it yet: there a letter is no figure. */
  const isEmptyFirst = (target: EventTarget | null) => target === firstField.current && !firstField.current?.value;
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
      else if (event.key.toLowerCase() === "c" && letters && (!typing || isEmptyFirst(event.target))) {
        event.preventDefault();
        void finish(true);
      } else if (event.key.toLowerCase() === "s" && letters && !typing && now) {
        event.preventDefault();
        change(withSharp);
      } else if (event.key.toLowerCase() === "m" && letters && !typing && now) {
        event.preventDefault();
        const at = modes.findIndex(([mode]) => mode === now.mode);
        choose(modes[(at + 1) % modes.length]?.[0] ?? "straight");
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });

  if (!draft) return null;
  const names = fieldNames(draft, upright);
  const words = wrong || (error ? problemOf(error).detail : "");
  const field = "figure h-7 rounded-[3px] border border-edge bg-paper px-2 text-right";
  return (
    <div className="absolute inset-x-0 bottom-0 border-rule border-t bg-bench px-3.5 py-2">
      {words && (
        <p role="alert" className="mb-1 text-red text-sm">
          {words}
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
          {names.length < 4 && draft.mode !== "curve" && <span className="text-pencil"> · click, or type</span>}
        </span>
        {draft.start && <Pick label="Kind of leg" value={draft.mode} ways={modes} choose={choose} />}
        {names.map((name, i) => (
          <label key={name} className="flex items-center gap-1.5 whitespace-nowrap text-pencil text-sm">
            {name}
            <input
              ref={i === 0 ? firstField : undefined}
              className={`${field} ${i === 0 ? "w-24" : "w-16"}`}
              value={typed[i] ?? ""}
              placeholder={placeholder(draft, name)}
              autoComplete="off"
              onChange={(event) => setTyped(names.map((_, n) => (n === i ? event.target.value : (typed[n] ?? ""))))}
            />
          </label>
        ))}
        {draft.mode === "curve" && draft.curve.length > 0 && (
          <span className="whitespace-nowrap text-pencil text-sm">
            <kbd>S</kbd> {draft.curve.at(-1)?.sharp ? "smooth" : "sharp"} there
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
        <Button onClick={() => set({ draft: null })}>Cancel</Button>
        <Button strong onClick={() => void finish(false)} disabled={count < 1}>
          Finish
        </Button>
      </div>
    </div>
  );
}

function placeholder(draft: DraftLine, name: string): string {
  if (name === "Sag") return draft.sag;
  if (name === "Turn right") return draft.mode === "arc" ? "90" : "pointer";
  if (name === "Angle up") return "pointer";
  if (name === "Rise") return "0";
  if (PLACE.includes(name)) return draft.start ? "there" : name === "East" ? "" : "0";
  return "";
}
