/** What can be dragged on the plan: points of lines, points that shape their curves, new points, the point that runs face. */

import type { Line, Point3 } from "../../api/client";
import { count } from "../../ui/figures";
import { useShown } from "../../window/job";
import { useWindow } from "../../window/store";
import { lineFigures, linePoints, pathOf, pointAt, pointId, runById, shapePoints } from "../../window/things";
import { type Sheet, toSheet } from "./frame";

/** More handles than this in one picture could not be distinguished. */
const MOST = 600;

export function Handles({ line, frame, width, height }: Sheet & { line: Line }) {
  const shown = useShown();
  const point = useWindow((state) => state.point);
  const corners = useWindow((state) => state.corners);
  const selected = useWindow((state) => state.selected);
  const points = linePoints(line);
  const own = selected[0] === line.id;
  const inSight = points.map((place): [number, number] | null => {
    const [x, y] = toSheet(frame, width, height, place[0], place[1]);
    return x > -12 && y > -12 && x < width + 12 && y < height + 12 ? [x, y] : null;
  });
  const many = inSight.filter(Boolean).length;
  if (many > MOST)
    return own ? (
      <text x={width / 2} y={height - 14} textAnchor="middle" fontSize={13} className="fill-pencil">
        {count(many, "point")} in sight: come nearer to take hold of them
      </text>
    ) : null;
  const legs = lineFigures(shown, line.id)?.legs ?? [];
  /** A place on a bent leg, on the sheet, clear of the points that shape it. */
  const placeOn = (leg: number): [number, number] | null => {
    const parts = legs.filter((one) => one.leg === leg && !one.rounding);
    if (line.legs[leg]?.kind === "straight" || !parts[0]) return null;
    const [from, to] = [parts[0].begin, parts.at(-1)?.end ?? 0];
    const at = pointAt(pathOf(shown, line), from + (to - from) * 0.3);
    return toSheet(frame, width, height, at[0], at[1]);
  };
  const path = line.closed ? [...points, points[0] as Point3] : points;
  return (
    <>
      {own &&
        path.slice(1).map((b, i) => {
          const a = path[i] as Point3;
          const [ax, ay] = toSheet(frame, width, height, a[0], a[1]);
          const [bx, by] = toSheet(frame, width, height, b[0], b[1]);
          if (Math.hypot(bx - ax, by - ay) < 60 || (!inSight[i] && !inSight[(i + 1) % points.length])) return null;
          const [mx, my] = placeOn(i) ?? [(ax + bx) / 2, (ay + by) / 2];
          return (
            <circle
              key={i}
              cx={mx}
              cy={my}
              r={3.6}
              fill="var(--color-paper)"
              stroke="var(--color-chalk)"
              strokeDasharray="2 1.5"
              data-line={line.id}
              data-insert={i}
              className="cursor-copy"
            >
              <title>Drag to put a new point into leg {i + 1}</title>
            </circle>
          );
        })}
      {own && <Shapes line={line} frame={frame} width={width} height={height} />}
      {inSight.map((place, i) => {
        if (!place) return null;
        const [x, y] = place;
        const on = own
          ? point === i
          : corners.includes(pointId(line, i)) && runById(shown, selected[0])?.line === line.id;
        return (
          <rect
            key={i}
            x={x - (on ? 5 : 3.5)}
            y={y - (on ? 5 : 3.5)}
            width={on ? 10 : 7}
            height={on ? 10 : 7}
            fill={on ? "var(--color-chalk)" : "var(--color-white)"}
            stroke="var(--color-chalk)"
            strokeWidth={1.5}
            data-line={line.id}
            data-point={i}
            className="cursor-move"
          />
        );
      })}
    </>
  );
}

/** The points that shape the curves of a line; a curve's controls with the polygon they make. */
function Shapes({ line, frame, width, height }: Sheet & { line: Line }) {
  const on = (place: Point3) => toSheet(frame, width, height, place[0], place[1]);
  return (
    <g stroke="var(--color-chalk)">
      {line.legs.map((leg, i) => {
        const places = shapePoints(leg);
        if (!places.length || places.length > 200) return null;
        const begin = (i === 0 ? line.start : line.legs[i - 1]?.to) as Point3;
        const polygon = [begin, ...places, leg.to as Point3].map((place) => on(place).join(" "));
        return (
          <g key={i}>
            {leg.kind === "curve" && (
              <path
                d={`M${polygon.join("L")}`}
                fill="none"
                strokeWidth={0.9}
                strokeDasharray="2 3"
                pointerEvents="none"
              />
            )}
            {places.map((place, k) => {
              const [x, y] = on(place);
              return (
                <path
                  key={k}
                  d={`M${x} ${y - 5.5}l5.5 5.5-5.5 5.5-5.5-5.5z`}
                  fill="var(--color-white)"
                  strokeWidth={1.5}
                  data-line={line.id}
                  data-leg={i}
                  data-shape={k}
                  className="cursor-move"
                >
                  <title>
                    {leg.kind === "curve" ? "Drag this control of the curve" : "Drag where the curve passes"}
                  </title>
                </path>
              );
            })}
          </g>
        );
      })}
    </g>
  );
}

/** The point that the selected runs face, to be dragged. */
export function Facing({ frame, width, height }: Sheet) {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  const facing = selected.flatMap((id) => {
    const facing = runById(shown, id)?.placing?.facing;
    return facing?.kind === "toward" ? [{ id, point: facing.point as Point3 }] : [];
  });
  const first = facing[0];
  if (!first) return null;
  const same = facing.filter((one) => one.point[0] === first.point[0] && one.point[1] === first.point[1]);
  const [x, y] = toSheet(frame, width, height, first.point[0], first.point[1]);
  return (
    <g className="text-wax" stroke="currentColor" fill="none">
      <circle
        cx={x}
        cy={y}
        r={10.5}
        strokeDasharray="3 2.5"
        strokeWidth={1.5}
        fill="var(--color-paper)"
        fillOpacity={0.7}
        data-facing={same.map((one) => one.id).join(" ")}
        className="cursor-move"
      />
      <path d={`M${x - 5} ${y}h10M${x} ${y - 5}v10`} strokeWidth={1.5} pointerEvents="none" />
      <text x={x + 17} y={y + 4.5} fontSize={13} stroke="none" className="fill-wax-deep" pointerEvents="none">
        faces here
      </text>
    </g>
  );
}
