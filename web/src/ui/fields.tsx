/** What every card is made of: a question, a setting, and fields for lengths, angles and words. */
import { type ReactNode, useCallback, useContext, useEffect, useId, useRef, useState } from "react";
import { answer, api, type Problem, problemOf } from "../api/client";
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

// Figures being taken in: what is done next with a form must wait for them, and not go on with a wrong one.
let taking: Promise<unknown> = Promise.resolve();
const wrongFields = new Set<string>();

/**
 * Wait until every figure typed so far has been taken, for a button pressed right after typing.
 * Resolves to false where one of them was wrong, which is shown at its field; of an open dialog its own fields count.
 */
export async function figuresTaken(): Promise<boolean> {
  // What is taken may lead to more being typed meanwhile.
  for (let before: unknown = null; before !== taking; ) {
    before = taking;
    await taking;
  }
  const dialog = document.querySelector("[role=dialog]");
  return ![...wrongFields].some((id) => {
    const field = document.getElementById(id);
    return field !== null && (dialog === null || dialog.contains(field));
  });
}

/** The values of a form. A button asks for the newest, once all figures that were typed have been taken. */
export function useForm<T extends object>(initial: T | (() => T)) {
  const [values, setValues] = useState<T>(initial);
  const latest = useRef(values);
  const put = useCallback((part: Partial<T> | ((now: T) => Partial<T>)) => {
    latest.current = { ...latest.current, ...(typeof part === "function" ? part(latest.current) : part) };
    setValues(latest.current);
  }, []);
  /** Resolves to nothing where a figure is wrong. */
  const settled = useCallback(async (): Promise<T | null> => ((await figuresTaken()) ? latest.current : null), []);
  return { values, put, settled };
}

/**
 * A text being typed over a value, until it has been taken. What is typed while an earlier text is
 * still on its way stays, and is taken after it.
 */
function useTyped(id: string, value: string, take: (text: string) => Promise<Problem | null>) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const latest = useRef<string | null>(null);
  // The text on its way.
  const busy = useRef<string | null>(null);
  const again = useRef(false);
  useEffect(() => () => void wrongFields.delete(id), [id]);
  const tell = (what: string | null) => {
    setWrong(what);
    if (what === null) wrongFields.delete(id);
    else wrongFields.add(id);
  };
  const type = (next: string | null) => {
    latest.current = next;
    setText(next);
    if (next === null) tell(null);
  };
  const work = async () => {
    do {
      again.current = false;
      const typed = latest.current;
      if (typed === null) break;
      busy.current = typed;
      const problem = await take(typed);
      if (latest.current !== typed) continue;
      // What is asked back is answered in its dialog; left here, the text would ask again when the dialog takes the focus.
      if (problem && problem.code !== "confirm-many") tell(problem.detail);
      else type(null);
    } while (again.current);
    busy.current = null;
  };
  const commit = () => {
    if (latest.current === null) return;
    if (busy.current !== null) {
      again.current = latest.current !== busy.current;
      return;
    }
    if (latest.current.trim() === value) {
      type(null);
      return;
    }
    const going = work();
    taking = Promise.allSettled([taking, going]);
  };
  return { text, wrong, type, commit };
}

/** A typed figure: Enter or leaving takes it, Escape gives up, and what is wrong is shown under it. */
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
  const id = useId();
  const { text, wrong, type, commit } = useTyped(id, value, take);
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
            onChange={(event) => type(event.target.value)}
            onBlur={commit}
            onKeyDown={(event) => {
              if (event.key === "Enter") commit();
              if (event.key === "Escape") {
                event.stopPropagation();
                // Given up: leaving the field, which frees the keys, must not take what was typed.
                type(null);
                event.currentTarget.blur();
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

/** Return what a typed text says, mm, and the job's measures that it names. */
export async function readTyped(text: string, system: "mm" | "m" | "ft-in", job?: string) {
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
            return await edit([{ kind: "bind", formula: { ...bound, text: text.trim() } }]);
          return await take(read.mm);
        } catch (error) {
          return problemOf(error);
        }
      }}
    />
  );
}

/** A whole number of something, one at least. */
export function CountField({
  label,
  value,
  take,
}: {
  label: string;
  value: number;
  take: (value: number) => Promise<Problem | null>;
}) {
  return (
    <FigureField
      label={label}
      value={String(value)}
      unit=""
      take={async (text) =>
        /^[1-9]\d{0,8}$/.test(text.trim())
          ? take(Number(text))
          : problemOf(new Error(`“${text}” is not a number of items: type a whole number, such as 12.`))
      }
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
  const id = useId();
  const { text, wrong, type, commit } = useTyped(id, value, take);
  return (
    <div>
      <input
        id={id}
        aria-label={label}
        className={`-ml-1.5 w-full rounded-[3px] border border-transparent bg-transparent px-1.5 hover:border-edge focus:border-edge focus:bg-paper ${small ? "font-medium text-sm" : "font-semibold text-lg"}`}
        value={text ?? value}
        data-dirty={text !== null}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => type(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") {
            event.stopPropagation();
            type(null);
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

/** A text of several lines: leaving it, or Ctrl Enter, takes it. */
export function LongTextField({
  label,
  value,
  take,
}: {
  label: string;
  value: string;
  take: (text: string) => Promise<Problem | null>;
}) {
  const id = useId();
  const { text, wrong, type, commit } = useTyped(id, value, take);
  return (
    <>
      <textarea
        id={id}
        aria-label={label}
        className="figure w-full rounded-[3px] border border-edge bg-paper px-2 py-1 text-sm"
        rows={Math.min(8, Math.max(2, Math.ceil(value.length / 30)))}
        value={text ?? value}
        data-dirty={text !== null}
        spellCheck={false}
        onChange={(event) => type(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) commit();
          if (event.key === "Escape") {
            event.stopPropagation();
            type(null);
          }
        }}
      />
      {wrong && (
        <p role="alert" className="text-red text-xs">
          {wrong}
        </p>
      )}
    </>
  );
}
