/** The points and legs of a line, one at a time: where the point is, how its corner is rounded, what the leg after it is. */
import { useState } from "react";
import {
  type Edit,
  type Leg,
  type LegFigures,
  type Line,
  type Point3,
  type Problem,
  problemOf,
} from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Button, Choice, Pick, Tick, Words } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Setting } from "../../ui/fields";
import { count, formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { usePart } from "../../window/store";
import { lineFigures, linePoints, pointId } from "../../window/things";
import { only } from "./changes";
import { EndsOfCurve, ShapeOfLeg } from "./ShapeOfLeg";

const kinds: [Leg["kind"], string][] = [
  ["straight", "straight"],
  ["arc", "arc"],
  ["helix", "helix"],
  ["cord", "catenary"],
  ["through", "spline through points"],
  ["curve", "spline by control points"],
];

export function LegsOfLine({ line }: { line: Line }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { point, pickPoint } = usePart("point", "pickPoint");
  const [after, setAfter] = useState(false);
  const points = linePoints(line);
  const at = Math.min(point ?? 0, points.length - 1);
  const id = pointId(line, at);
  const place = points[at] as Point3;
  const origin = (shown.job.origin ?? [0, 0, 0]) as Point3;
  const end = !line.closed && (at === 0 || at === points.length - 1);
  const leg = line.legs[at];
  const corner = line.legs[at === 0 ? line.legs.length - 1 : at - 1];
  const figures = lineFigures(shown, line.id);
  const move = (axis: number) => (mm: number) => {
    return edit([{ kind: "move_vertex", line: line.id, point: id, to: only(axis, mm) } as Edit]);
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
    if (!(await edit([{ kind: "insert_vertex", line: line.id, after: id, at: where }]))) pickPoint(at + 1);
    setAfter(false);
  };
  const round = (radius: number | null, all = false) =>
    edit([{ kind: "round_corners", line: line.id, points: all ? null : [id], radius }]);
  const bound = (axis: number) => ({ thing: line.id, field: `points.${id}.${axis}` });
  return (
    <Asked
      question="Where are its points?"
      answer={`${count(points.length, "point")}, ${count(line.legs.length, "leg")}`}
      opens={point !== null}
    >
      <div className="mb-1 flex items-center gap-2">
        <Button label="Previous point" onClick={() => step(-1)}>
          ‹
        </Button>
        <span className="figure flex-1 text-center text-sm">
          point {at + 1} of {points.length}
        </span>
        <Button label="Next point" onClick={() => step(1)}>
          ›
        </Button>
      </div>
      <LengthField key={`x${at}`} label="East" mm={place[0]} bound={bound(0)} take={move(0)} />
      <LengthField key={`y${at}`} label="North" mm={place[1]} bound={bound(1)} take={move(1)} />
      <LengthField key={`z${at}`} label="Height" mm={place[2]} bound={bound(2)} take={move(2)} />
      {origin.some((mm) => mm !== 0) && (
        <p className="figure text-pencil text-sm">
          On the site {place.map((mm, axis) => formatLength(mm + (origin[axis] ?? 0), units)).join("; ")}
        </p>
      )}
      {!end && (
        <>
          <LengthField
            key={`r${at}`}
            label="Rounded to"
            mm={corner?.round ?? null}
            placeholder="sharp"
            take={(mm) => round(mm || null)}
          />
          <p className="text-sm">
            <Words onClick={() => void round(null)} disabled={!corner?.round}>
              Sharp
            </Words>{" "}
            ·{" "}
            <Words onClick={() => void round(corner?.round ?? null, true)}>
              {corner?.round ? "Apply to all corners" : "All corners sharp"}
            </Words>
          </p>
        </>
      )}
      <div className="mt-1 flex gap-3">
        <Words disabled={after} onClick={() => void insert()}>
          Insert a point after it
        </Words>
        <Words onClick={() => void edit([{ kind: "remove_vertex", line: line.id, point: id }])}>Remove point</Words>
      </div>
      {leg && (
        <OneLeg
          key={`${at}${leg.kind}`}
          line={line}
          leg={leg}
          index={at}
          begin={place}
          parts={figures?.legs.filter((one) => one.leg === at && !one.rounding) ?? []}
        />
      )}
    </Asked>
  );
}

function OneLeg({
  line,
  leg,
  index,
  begin,
  parts,
}: {
  line: Line;
  leg: Leg;
  index: number;
  begin: Point3;
  parts: LegFigures[];
}) {
  const units = useUnits();
  const { edit } = useChanges();
  const id = pointId(line, index);
  const to = leg.to as Point3;
  const chord = Math.hypot(to[0] - begin[0], to[1] - begin[1], to[2] - begin[2]);
  const length = parts.reduce((sum, part) => sum + part.end - part.begin, 0);
  const set = (changes: object) => edit([{ kind: "set_leg", line: line.id, leg: id, changes }]);
  const bend = (part: object) => edit([{ kind: "bend_leg", line: line.id, leg: id, ...part }]);
  const become = (kind: Leg["kind"]) => {
    if (kind === leg.kind) return;
    if (kind === "straight") void set({ kind });
    else if (kind === "arc") void bend({});
    else if (kind === "cord") void set({ kind, sag: chord / 10 });
    else if (kind === "helix") void edit([{ kind: "turn_leg", line: line.id, leg: id, turn: 180 }]);
    else if (kind === "through") void set({ kind, points: [{ at: middle(begin, to, chord / 8) }] });
    else void set({ kind, controls: [middle(begin, to, chord / 6)] });
  };
  const arc = leg.kind === "arc" ? arcSide(begin, leg.via as Point3, to) : null;
  const radius = parts[0]?.radius ?? null;
  return (
    <>
      <div className="mt-2.5">
        <Setting label={`Leg ${index + 1}, ${formatLength(length, units)} long`}>
          <Pick label="Kind of leg" value={leg.kind} ways={kinds} choose={become} />
        </Setting>
      </div>
      {leg.kind === "arc" && arc && (
        <>
          <LengthField label="Radius" mm={radius} take={(radius) => bend({ radius })} />
          <Choice
            label="Bulge"
            value={arc.side}
            ways={[
              ["left", "Bulges left"],
              ["right", "Bulges right"],
            ]}
            choose={(side) => void bend({ side })}
          />
          <Tick label="The long way round" checked={arc.long} set={(long) => bend({ long })} />
        </>
      )}
      {leg.kind === "cord" && <CordFields {...{ line, leg, id, chord, length, set }} cord={parts[0]?.cord ?? null} />}
      {leg.kind === "helix" && (
        <>
          <AngleField
            label="Turn, anticlockwise"
            degrees={leg.turn}
            take={(turn) => edit([{ kind: "turn_leg", line: line.id, leg: id, turn }])}
          />
          <p className="text-pencil text-sm">
            Radius {formatLength(radius ?? 0, units)} · rises {formatLength(to[2] - begin[2], units)}
          </p>
        </>
      )}
      <ShapeOfLeg line={line.id} leg={leg} id={id} />
      {leg.kind === "through" && <EndsOfCurve leg={leg} set={set} />}
      {leg.kind === "curve" && (
        <p className="text-pencil text-sm">
          {leg.controls.length + 2} controls, degree {leg.degree ?? leg.controls.length + 1}
          {leg.weights && ", rational"}
        </p>
      )}
      {(index > 0 || line.closed) && leg.kind !== "straight" && leg.kind !== "cord" && (
        <Words onClick={() => void edit([{ kind: "make_tangent", line: line.id, leg: id }])}>
          Make tangent to the leg before, as an arc
        </Words>
      )}
    </>
  );
}

function middle(a: Point3, b: Point3, aside: number): Point3 {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const size = Math.hypot(dx, dy) || 1;
  return [
    (a[0] + b[0]) / 2 - (dy / size) * aside,
    (a[1] + b[1]) / 2 + (dx / size) * aside,
    (a[2] + b[2]) / 2 + (size > 1 ? 0 : aside),
  ];
}

/** Which side an arc bulges to, and whether it is more than half a circle. */
function arcSide(a: Point3, via: Point3, b: Point3): { side: "left" | "right"; long: boolean } {
  const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const flat = Math.hypot(dx, dy);
  const [mx, my, mz] = [via[0] - (a[0] + b[0]) / 2, via[1] - (a[1] + b[1]) / 2, via[2] - (a[2] + b[2]) / 2];
  const left = flat > 1e-6 ? (mx * -dy + my * dx) / flat : -mx;
  return { side: left >= 0 ? "left" : "right", long: Math.hypot(mx, my, mz) > Math.hypot(dx, dy, dz) / 2 + 1e-6 };
}

/** How a cord hangs: what it is given by, its weight, and what comes of them. */
function CordFields({
  line,
  leg,
  id,
  chord,
  length,
  cord,
  set,
}: {
  line: Line;
  leg: Extract<Leg, { kind: "cord" }>;
  id: number;
  chord: number;
  length: number;
  cord: LegFigures["cord"];
  set: (changes: object) => Promise<Problem | null>;
}) {
  const units = useUnits();
  const { edit } = useChanges();
  const given = leg.sag != null ? "sag" : leg.length != null ? "length" : "pull";
  const ids = line.point_ids?.length ? line.point_ids : line.legs.map((_, i) => i);
  // By the same share of its span each; a cord by its pull hangs by the same one.
  const begins = [line.start, ...line.legs.map((one) => one.to)] as [number, number, number][];
  const allAlike = line.legs.map((one, i) => {
    const [a, b] = [begins[i] ?? begins[0], one.to as [number, number, number]] as const;
    const share = Math.hypot(b[0] - (a?.[0] ?? 0), b[1] - (a?.[1] ?? 0), b[2] - (a?.[2] ?? 0)) / chord;
    const size = given === "pull" ? { pull: leg.pull } : { [given]: (leg[given] ?? 0) * share };
    const changes = {
      kind: "cord",
      sag: null,
      length: null,
      pull: null,
      ...size,
      weight: leg.weight,
      allowance: leg.allowance,
    };
    return { kind: "set_leg", line: line.id, leg: ids[i], changes } as Edit;
  });
  const number = (text: string) => Number(text.replace(",", ".").trim());
  const force = (value: number) => `${value.toFixed(value < 100 ? 1 : 0)} N`;
  return (
    <>
      <Choice
        label="Given by"
        value={given}
        ways={[
          ["sag", "Its sag"],
          ["length", "Its length"],
          ["pull", "Its pull"],
        ]}
        choose={(way) => {
          if (way === "sag") void set({ sag: cord?.sag ?? chord / 10, length: null, pull: null });
          else if (way === "length") void set({ length, sag: null, pull: null });
          // Without a weight nothing is known of its pull: a cord of one newton a metre hangs as it does now.
          else void set({ pull: cord?.level ?? chord / 1000, weight: leg.weight ?? 1, sag: null, length: null });
        }}
      />
      {given === "pull" ? (
        <FigureField
          label="Level pull"
          value={String(leg.pull ?? "")}
          unit="N"
          take={async (text) =>
            number(text) > 0
              ? set({ pull: number(text) })
              : problemOf(new Error(`“${text}” is not a pull: type newtons, such as 120.`))
          }
        />
      ) : (
        <LengthField
          label={given === "sag" ? "Sag" : "Length"}
          mm={leg.sag ?? leg.length ?? 0}
          bound={{ thing: line.id, field: `legs.${id}.${given}` }}
          take={(mm) => set({ [given]: mm })}
        />
      )}
      <FigureField
        label="Weight of the cord"
        value={leg.weight == null ? "" : String(leg.weight)}
        unit="N/m"
        placeholder="not known"
        take={async (text) => {
          if (text.trim() === "" && given !== "pull") return set({ weight: null });
          return number(text) > 0
            ? set({ weight: number(text) })
            : problemOf(new Error(`“${text}” is not a weight: type newtons a metre, such as 2.5.`));
        }}
      />
      <LengthField label="Allowance at either end" mm={leg.allowance ?? 0} take={(allowance) => set({ allowance })} />
      {line.legs.length > 1 && (
        <p className="mb-1 text-right text-sm">
          <Words onClick={() => void edit(allAlike)}>Hang every span of the line so</Words>
        </p>
      )}
      <p className="text-pencil text-sm">
        {formatLength(length, units)} long,{" "}
        {leg.allowance ? `${formatLength(length + 2 * leg.allowance, units)} to cut, ` : ""}sags{" "}
        {formatLength(cord?.sag ?? 0, units)}
        {cord?.level != null &&
          cord.begin != null &&
          cord.end != null &&
          `; pulls ${force(cord.level)} at its lowest, ${force(cord.begin)} and ${force(cord.end)} at its ends, under its own weight`}
      </p>
    </>
  );
}
