/** What every card is made of: a question, a setting, and fields for lengths, angles and words. */
import { type ReactNode, useContext, useId, useRef, useState } from "react";
import { answer, api, type Edit, type Problem, problemOf } from "../api/client";
import { JobId, useChanges, useMaybeShown, useUnits } from "../window/job";
import { fieldLength, unitWord } from "./figures";

export function Question({ children }: { children: ReactNode }) {
  return <h3 className="mt-4 mb-1.5 font-semibold text-sm">{children}</h3>;
}

export function Setting({ label, children, note }: { label: string; children: ReactNode; note?: ReactNode }) {
  return (
    <div className="mb-1">
      <div className="flex min-h-7 items-center justify-between gap-3">
        <span className="whitespace-nowrap text-pencil text-sm">{label}</span>
        {children}
      </div>
      {note}
    </div>
  );
}

const boxClass =
  "figure h-7 rounded-[3px] border bg-paper px-2 text-right text-base disabled:border-rule disabled:bg-transparent disabled:text-pencil";

interface FigureProps {
  label: string;
  value: string;
  unit?: string;
  width?: string;
  disabled?: boolean;
  placeholder?: string;
  /** What the typed text comes out as, where it is not a plain figure. */
  note?: string | undefined;
  /** Takes what was typed; resolves to a problem to tell under the field, or null. */
  take: (text: string) => Promise<Problem | null>;
}

// Figures being taken in: what is done next with a form must wait for them.
let taking: Promise<unknown> = Promise.resolve();

/** Wait until every figure typed so far has been taken, for a button pressed right after typing. */
export function figuresTaken(): Promise<unknown> {
  return taking;
}

/** A typed figure: Enter or leaving takes it, Escape gives up, and what is wrong is told under it. */
export function FigureField({
  label,
  value,
  unit,
  width = "w-[92px]",
  disabled,
  placeholder,
  note,
  take,
}: FigureProps) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const id = useId();
  const given = useRef(false);
  const commit = async () => {
    if (text === null || given.current) return;
    if (text.trim() === value) {
      setText(null);
      setWrong(null);
      return;
    }
    given.current = true;
    const work = take(text);
    taking = Promise.allSettled([taking, work]);
    const problem = await work;
    given.current = false;
    if (problem) setWrong(problem.detail);
    else {
      setText(null);
      setWrong(null);
    }
  };
  return (
    <div className="mb-1">
      <div className="flex min-h-7 items-center justify-between gap-3">
        <label htmlFor={id} className="whitespace-nowrap text-pencil text-sm">
          {label}
        </label>
        <span className="flex items-center gap-1.5">
          <input
            id={id}
            className={`${boxClass} ${width} ${wrong ? "border-red" : "border-edge"}`}
            value={text ?? value}
            disabled={disabled}
            placeholder={placeholder}
            data-dirty={text !== null}
            aria-invalid={wrong !== null}
            aria-describedby={wrong ? `${id}-wrong` : undefined}
            autoComplete="off"
            spellCheck={false}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setText(event.target.value)}
            onBlur={() => void commit()}
            onKeyDown={(event) => {
              if (event.key === "Enter") void commit();
              if (event.key === "Escape") {
                event.stopPropagation();
                // Given up: leaving the field, which frees the keys, must not take what was typed.
                given.current = true;
                event.currentTarget.blur();
                given.current = false;
                setText(null);
                setWrong(null);
              }
            }}
          />
          {unit !== undefined && <span className="figure w-6 text-pencil text-xs">{unit}</span>}
        </span>
      </div>
      {note && !wrong && <p className="figure pr-8 text-right text-pencil text-xs">{note}</p>}
      {wrong && (
        <p id={`${id}-wrong`} role="alert" className="mt-0.5 text-red text-xs">
          {wrong}
        </p>
      )}
    </div>
  );
}

/** Return the millimetres that a typed text says; the service reads it, so that there is one rule. In a job its measures are known. */
export async function readLength(text: string, system: "mm" | "m" | "ft-in", job?: string): Promise<number> {
  return (await readTyped(text, system, job)).mm;
}

async function readTyped(text: string, system: "mm" | "m" | "ft-in", job?: string) {
  const body = { text, system, job: job ?? null };
  return answer<{ mm: number; uses: string[] }>(api.POST("/api/lengths", { body }));
}

/** The field of a thing of the job that a length belongs to, so that it can follow a measure. */
export interface Bound {
  thing: string;
  field: string;
}

export function LengthField({
  label,
  mm,
  take,
  bound,
  ...more
}: {
  label: string;
  mm: number | null;
  take: (mm: number) => Promise<Problem | null>;
  bound?: Bound | undefined;
  width?: string;
  disabled?: boolean;
  placeholder?: string;
}) {
  const units = useUnits();
  const job = useContext(JobId);
  const shown = useMaybeShown();
  const { edit } = useChanges();
  const formula = bound && shown?.job.formulas?.find((one) => one.thing === bound.thing && one.field === bound.field);
  const value = mm === null ? "" : fieldLength(mm, units);
  return (
    <FigureField
      label={label}
      value={formula ? formula.text : value}
      note={formula ? `= ${value}` : undefined}
      {...more}
      // Feet and inches carry their own unit and need its room.
      unit={units.system === "ft-in" ? undefined : unitWord(units)}
      width={formula ? "w-[130px]" : units.system === "ft-in" && more.width ? "w-[92px]" : more.width}
      take={async (text) => {
        try {
          const read = await readTyped(text, units.system ?? "mm", job || undefined);
          if (bound && read.uses.length)
            return await edit([{ kind: "bind", formula: { ...bound, text: text.trim() } } as Edit]);
          return await take(read.mm);
        } catch (error) {
          return problemOf(error);
        }
      }}
    />
  );
}

export function AngleField(
  props:
    | { label: string; degrees: number | null; take: (degrees: number) => Promise<Problem | null>; free?: false }
    // An angle that may be left open: an empty field says so.
    | { label: string; degrees: number | null; take: (degrees: number | null) => Promise<Problem | null>; free: true },
) {
  const { label, degrees } = props;
  return (
    <FigureField
      label={label}
      value={degrees === null ? "" : String(Number(degrees.toFixed(6)))}
      unit="°"
      placeholder={degrees === null ? (props.free ? "free" : "various") : undefined}
      take={async (text) => {
        if (props.free && text.trim() === "") return props.take(null);
        const value = Number(text.replace("°", "").replace("−", "-").trim());
        if (text.trim() === "" || !Number.isFinite(value)) {
          return problemOf(new Error(`“${text}” is not an angle: type degrees, such as 45 or 22.5.`));
        }
        return props.take(value);
      }}
    />
  );
}

export function TextField({
  label,
  value,
  take,
  small,
}: {
  /** In a list, where the name is no heading. */
  small?: boolean;
  label: string;
  value: string;
  take: (text: string) => Promise<Problem | null>;
}) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const commit = async () => {
    if (text === null || text.trim() === value) {
      setText(null);
      return;
    }
    const problem = await take(text);
    setWrong(problem?.detail ?? null);
    if (!problem) setText(null);
  };
  return (
    <div>
      <input
        aria-label={label}
        className={`-ml-1.5 w-full rounded-[3px] border border-transparent bg-transparent px-1.5 hover:border-edge focus:border-edge focus:bg-paper ${small ? "font-medium text-sm" : "font-semibold text-lg"}`}
        value={text ?? value}
        data-dirty={text !== null}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void commit()}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") {
            event.stopPropagation();
            setText(null);
            setWrong(null);
          }
        }}
      />
      {wrong && (
        <p role="alert" className="text-red text-xs">
          {wrong}
        </p>
      )}
    </div>
  );
}
