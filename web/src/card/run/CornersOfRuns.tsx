/** How the corners of runs are made: those toward the face, those away from it, and single ones in ways of their own. */
import type { CornerFigures, JobShown, Problem, Run } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Pick, Words } from "../../ui/choices";
import { FigureField, LengthField, Setting } from "../../ui/fields";
import { formatAngle, formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { lineById, runFigures } from "../../window/things";
import { CORNERS } from "../questions";
import { shared } from "../shared";
import { corners } from "./answers";
import { EXTERNAL, INTERNAL, type CornerKind as Kind } from "./ways";

type Made = NonNullable<Run["corners"]>;
type Which = "corners" | "external";

const PIECES: ["before" | "after" | "left" | "right", string][] = [
  ["before", "the piece before"],
  ["after", "the piece after"],
  ["left", "the left one"],
  ["right", "the right one"],
];

const RAKED: [NonNullable<Extract<Made, { kind: "mitre" }>["raked"]>, string][] = [
  ["told", "as the sections come"],
  ["members", "a second section"],
  ["turned", "the section turned"],
];

const BESIDE_CURVES: [NonNullable<Extract<Made, { kind: "mitre" }>["beside_curves"]>, string][] = [
  ["flat", "in one plane"],
  ["true", "along the true curve"],
];

const isTrue = (made?: Made) => made?.kind === "mitre" && made.beside_curves === "true";

/** Whether a curve comes right up to a corner of a run, so that pieces miss each other there or are cut along the true curve. */
const isBent = (shown: JobShown, run: Run) =>
  run.curves?.kind !== "faceted" &&
  (lineById(shown, run.line)?.legs ?? []).some((leg) => leg.kind !== "straight" || Boolean(leg.round)) &&
  ((runFigures(shown, run.id)?.corners ?? []).some((corner) => corner.mismatch > 0.001) ||
    [run.corners, run.external, ...(run.own_corners ?? []).map((one) => one.made)].some(isTrue));

const standing = (made?: Made) => (made?.kind === "block" || made?.kind === "transition" ? made : null);

/** Whether sections miss each other at some corner, or would if nothing had been done about it. */
const isRaked = (corners: CornerFigures[] | undefined, made?: Made) =>
  (made?.kind === "mitre" && made.raked !== undefined && made.raked !== "told") ||
  (corners ?? []).some((corner) => corner.mismatch > 0.001);

export function CornersOfRuns({ runs }: { runs: Run[] }) {
  const picked = useWindow((state) => state.corners.length);
  return (
    <Asked question={CORNERS} answer={corners(runs)} opens={picked > 0}>
      <CornersMade runs={runs} which="corners" label="Internal" ways={INTERNAL} />
      <CornersMade runs={runs} which="external" label="External" ways={EXTERNAL} />
      {runs.length === 1 && <OwnCorners run={runs[0] as Run} />}
    </Asked>
  );
}

function CornersMade(props: { runs: Run[]; which: Which; label: string; ways: [Kind, string][] }) {
  const { runs, which, label, ways } = props;
  const shown = useShown();
  const { edit } = useChanges();
  const make = (changes: object) =>
    edit(runs.map((run) => ({ kind: "set_run", run: run.id, changes: { [which]: changes } })));
  const choose = (wanted: string) => {
    // What is coped inside cannot be outside: corners that were made alike are then mitred there.
    if (which === "external" || wanted !== "cope") return void make({ kind: wanted });
    void edit(
      runs.map((run) => ({
        kind: "set_run",
        run: run.id,
        changes: {
          corners: { kind: wanted },
          ...(run.external?.kind === "cope" ? { external: { kind: "mitre" } } : {}),
        },
      })),
    );
  };
  return (
    <>
      <Setting label={label}>
        <Pick
          label={`${label} corners`}
          value={shared(runs, (run) => run[which]?.kind ?? "mitre")}
          various="various"
          ways={ways}
          choose={choose}
        />
      </Setting>
      <Particulars
        label={label}
        made={runs.map((run) => run[which])}
        raked={runs.some((run) => isRaked(runFigures(shown, run.id)?.corners, run[which]))}
        bent={runs.some((run) => isBent(shown, run))}
        make={make}
      />
    </>
  );
}

/** What is said of a way besides its name: which piece, how wide a gap, how large a block. */
function Particulars(props: {
  label: string;
  made: (Made | undefined)[];
  /** Whether sections do not meet at some corner as they come, because the line rises where it turns. */
  raked: boolean;
  /** Whether a curve may come right up to a corner. */
  bent: boolean;
  make: (changes: object) => Promise<Problem | null>;
}) {
  const { label, made, raked, bent, make } = props;
  const kind = shared(made, (one) => one?.kind ?? "mitre");
  return (
    <>
      {kind === "mitre" && raked && (
        <Setting label="… on the rise">
          <Pick
            label={`${label}: on the rise`}
            value={shared(made, (one) => (one?.kind === "mitre" ? (one.raked ?? "told") : "told"))}
            various="various"
            ways={RAKED}
            choose={(way) => void make({ raked: way })}
          />
        </Setting>
      )}
      {kind === "mitre" && bent && (
        <Setting label="… beside curves">
          <Pick
            label={`${label}: beside curves`}
            value={shared(made, (one) => (one?.kind === "mitre" ? (one.beside_curves ?? "flat") : "flat"))}
            various="various"
            ways={BESIDE_CURVES}
            choose={(way) => void make({ beside_curves: way })}
          />
        </Setting>
      )}
      {kind === "butt" && (
        <Setting label="… runs through">
          <Pick
            label={`${label}: runs through`}
            value={shared(made, (one) => (one?.kind === "butt" ? (one.through ?? "before") : "before"))}
            various="various"
            ways={PIECES}
            choose={(piece) => void make({ through: piece })}
          />
        </Setting>
      )}
      {kind === "cope" && (
        <Setting label="… is shaped">
          <Pick
            label={`${label}: is coped`}
            value={shared(made, (one) => (one?.kind === "cope" ? (one.coped ?? "after") : "after"))}
            various="various"
            ways={PIECES}
            choose={(piece) => void make({ coped: piece })}
          />
        </Setting>
      )}
      {kind === "gap" && (
        <LengthField
          label="… with a gap of"
          mm={shared(made, (one) => (one?.kind === "gap" ? (one.gap ?? 5) : 0))}
          take={(gap) => make({ gap })}
        />
      )}
      {kind === "squared" && (
        <LengthField
          label="… past the corner"
          mm={shared(made, (one) => (one?.kind === "squared" ? (one.past ?? 20) : 0))}
          take={(past) => make({ past })}
        />
      )}
      {(kind === "block" || kind === "transition") && (
        <>
          <LengthField
            label="… as wide as"
            mm={shared(made, (one) => standing(one)?.size ?? 100)}
            take={(size) => make({ size })}
          />
          <LengthField
            label="… proud by"
            mm={shared(made, (one) => standing(one)?.proud ?? (one?.kind === "transition" ? 10 : 0))}
            take={(proud) => make({ proud })}
          />
          <FigureField
            label="… called"
            width="w-[150px]"
            unit=""
            value={shared(made, (one) => standing(one)?.name ?? "") ?? ""}
            placeholder="various"
            take={(name) => make({ name })}
          />
        </>
      )}
    </>
  );
}

/** The corners that are picked, on the rod or in the drawing, and how they are made apart from the others. */
function OwnCorners({ run }: { run: Run }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { corners, set } = usePart("corners", "set");
  const all = runFigures(shown, run.id)?.corners.filter((corner) => corner.vertex !== null) ?? [];
  const own = all.filter((corner) => corner.own);
  const picked = all.filter((corner) => corners.includes(corner.vertex as number));
  const words = (corner: CornerFigures) =>
    `${corner.kind}, ${formatAngle(corner.angle)}, at ${formatLength(corner.chainage, units)}`;
  if (!all.length) return null;
  if (!picked.length)
    return (
      <p className="mt-1 text-pencil text-sm">
        {own.length > 0 && (
          <>
            <Words onClick={() => set({ corners: own.map((corner) => corner.vertex as number) })}>
              {own.length === 1 ? "One corner is" : `${own.length} corners are`} made otherwise
            </Words>
            .{" "}
          </>
        )}
        A corner on the rod can be picked, to be made in a way of its own.
      </p>
    );
  const points = picked.map((corner) => corner.vertex as number);
  const made = points.map((point) => run.own_corners?.find((one) => one.point === point)?.made);
  const make = (changes: object | null) =>
    edit([{ kind: "set_corners", run: run.id, points, ...(changes ? { changes } : {}) }]);
  return (
    <div className="mt-1.5 border-chalk border-l-[3px] bg-chalk-wash px-2.5 pt-1.5 pb-1">
      <p className="flex justify-between gap-2 text-sm">
        <span>
          {picked.length === 1 ? `The corner, ${words(picked[0] as CornerFigures)}` : `${picked.length} corners`}
        </span>
        <Words onClick={() => set({ corners: [] })}>Done</Words>
      </p>
      <Setting label="Made">
        <Pick
          label="Picked corners"
          value={shared(made, (one) => one?.kind ?? "like")}
          various="various"
          ways={[["like", "like the others"], ...INTERNAL]}
          choose={(way) => void make(way === "like" ? null : { kind: way })}
        />
      </Setting>
      <Particulars
        label="Picked"
        made={made}
        raked={picked.some((corner, at) => isRaked([corner], made[at]))}
        bent={isBent(shown, run)}
        make={make}
      />
      <LengthField
        label="Or bent to a radius"
        mm={null}
        placeholder="sharp"
        take={(radius) => edit([{ kind: "round_corners", line: run.line, points, radius }])}
      />
    </div>
  );
}
