/** The card of lines that stand in several places: where, how, and what is other in one of them. */
import type { ReactNode } from "react";
import type { Edit, Typical } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Button, Tick, Words } from "../../ui/choices";
import { AngleField, LengthField, TextField } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { usePart } from "../../window/store";
import { lineById, rowById, typicalFigures } from "../../window/things";
import { PlacesOfTypical } from "./PlacesOfTypical";

export function TypicalCard({ typical, checks }: { typical: Typical; checks: ReactNode }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { set, select } = usePart("set", "select");
  const figures = typicalFigures(shown, typical.id);
  const change = (changes: object) => edit([{ kind: "set_typical", typical: typical.id, changes }]);
  const on = new Set(typical.lines);
  const runs = (shown.job.runs ?? []).filter((run) => on.has(run.line));
  const rows = (shown.job.rows ?? []).filter((row) => on.has(row.line));
  const mirrored = figures?.places.filter((place) => place.over).length ?? 0;
  const base = (typical.base ?? [0, 0, 0]) as number[];
  const others = (typical.places ?? []).length;
  return (
    <>
      <TextField label="Name of the typical" value={typical.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        {figures ? (
          <>
            stands in <span className="figure text-ink">{count(figures.places.length, "place")}</span>
            {mirrored > 0 && `, ${mirrored} of them mirrored`}
          </>
        ) : (
          "…"
        )}
      </p>
      {checks}
      {typical.laid?.kind === "row" && (
        <p className="mt-1 text-sm">
          Set out by{" "}
          <Words onClick={() => select([typical.laid?.kind === "row" ? typical.laid.row : typical.id])}>
            {rowById(shown, typical.laid.row)?.name ?? "a row"}
          </Words>
          : how far apart, and how they are turned.
        </p>
      )}
      <div className="mt-3">
        <Button strong onClick={() => set({ dialog: "places" })}>
          More places
        </Button>
      </div>
      <PlacesOfTypical typical={typical} />
      <Asked question="What stands there?" answer={`${count(runs.length, "run")}, ${count(rows.length, "row")}`}>
        <p className="flex flex-wrap gap-x-3 gap-y-0.5">
          {typical.lines.map((id) => (
            <Words key={id} onClick={() => select([id])}>
              {lineById(shown, id)?.name ?? id}
            </Words>
          ))}
        </p>
        <p className="mt-1 text-pencil text-sm">
          With {count(runs.length, "run")} and {count(rows.length, "row")} on {typical.lines.length > 1 ? "them" : "it"}
          . Work on {typical.lines.length > 1 ? "the lines" : "the line"} where{" "}
          {typical.lines.length > 1 ? "they are" : "it is"} drawn: all places follow.
        </p>
      </Asked>
      <Asked
        question="Does it stand where it is drawn?"
        answer={`${(typical.here_stands ?? true) ? "yes" : "no"}, as ${typical.here ?? "1"}`}
      >
        <TextField label="Called" value={typical.here ?? "1"} take={(here) => change({ here })} small />
        <Tick
          label="It stands there too"
          checked={typical.here_stands ?? true}
          set={(stands) => change({ here_stands: stands })}
          disabled={others === 0}
        />
      </Asked>
      <Asked question="What do places measure from?" answer={base.map((mm) => formatLength(mm, units)).join("; ")}>
        {(["east", "north", "height"] as const).map((name, axis) => (
          <LengthField
            key={name}
            label={`Base point, ${name}`}
            mm={base[axis] ?? 0}
            take={(mm) => change({ base: base.map((_, i) => (i === axis ? mm : null)) })}
          />
        ))}
        <AngleField label="Drawn toward" degrees={typical.heading ?? 0} take={(heading) => change({ heading })} />
        <p className="text-pencil text-xs">
          A direction on plan, measured from east. Mirroring swaps the two ends of this direction; along a line the
          typical turns with the line. The base point is {formatLength(base[2] ?? 0, units)} high.
        </p>
      </Asked>
      <p className="mt-3 text-sm">
        <Words onClick={() => void edit([{ kind: "remove", ids: [typical.id] } as Edit])}>
          Keep it only where it is drawn
        </Words>
      </p>
    </>
  );
}
