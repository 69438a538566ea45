/** The points that shape a leg between its ends, one at a time, and a spline through points's directions at its ends. */
import { useState } from "react";
import type { Leg, Point3, Problem } from "../../api/client";
import { Button, Tick, Words } from "../../ui/choices";
import { AngleField, LengthField } from "../../ui/fields";
import { useChanges } from "../../window/job";
import { shapePoints } from "../../window/things";
import { only } from "./changes";

type Set = (next: object) => Promise<Problem | null>;

const words = { arc: "passes", through: "passes, point", curve: "control" };

export function ShapeOfLeg({ line, leg, id }: { line: string; leg: Leg; id: number }) {
  const { edit } = useChanges();
  const [picked, setPicked] = useState(0);
  const points = shapePoints(leg);
  const at = Math.min(picked, points.length - 1);
  const place = points[at];
  if (!place || (leg.kind !== "arc" && leg.kind !== "through" && leg.kind !== "curve")) return null;
  const shape = (part: object) => edit([{ kind: "shape_leg", line, leg: id, point: at, ...part }]);
  const move = (axis: number) => (mm: number) => shape({ to: only(axis, mm) });
  const step = (by: number) => setPicked((at + by + points.length) % points.length);
  const passed = leg.kind === "through" ? (leg.points ?? []) : [];
  return (
    <>
      <div className="mt-1.5 mb-1 flex items-center gap-2">
        {points.length > 1 && (
          <Button label="Previous shaping point" onClick={() => step(-1)}>
            ‹
          </Button>
        )}
        <span className="figure flex-1 text-pencil text-sm">
          {words[leg.kind]}
          {points.length > 1 && ` ${at + 1} of ${points.length}`}
        </span>
        {points.length > 1 && (
          <Button label="Next shaping point" onClick={() => step(1)}>
            ›
          </Button>
        )}
      </div>
      {(["East", "North", "Height"] as const).map((name, axis) => (
        <LengthField key={`${name}${at}`} label={`${name} there`} mm={place[axis] ?? 0} take={move(axis)} />
      ))}
      {leg.kind === "through" && (
        <div className="flex items-center justify-between gap-2">
          <Tick label="A sharp corner there" checked={passed[at]?.sharp ?? false} set={(sharp) => shape({ sharp })} />
          <Words onClick={() => void edit([{ kind: "unshape_leg", line, leg: id, point: at }])}>
            Remove this point
          </Words>
        </div>
      )}
    </>
  );
}

export function EndsOfCurve({ leg, set }: { leg: Extract<Leg, { kind: "through" }>; set: Set }) {
  return (
    <>
      {(["begin", "end"] as const).map((name) => (
        <AngleField
          key={name}
          label={`Bearing at its ${name}`}
          degrees={leg[name] ? bearing(leg[name] as Point3) : null}
          free
          take={(degrees) => {
            const angle = ((90 - (degrees ?? 0)) * Math.PI) / 180;
            return set({ [name]: degrees === null ? null : [Math.cos(angle), Math.sin(angle), 0] });
          }}
        />
      ))}
    </>
  );
}

function bearing(way: Point3): number {
  return ((Math.atan2(way[0], way[1]) * 180) / Math.PI + 360) % 360;
}
