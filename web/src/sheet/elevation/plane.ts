/** Drawing on an upright plane: the job seen square to it, along the plane to the right and height up. */

import type { JobShown, Line, Point3 } from "../../api/client";
import type { Plane } from "../../window/store";
import { shapedBy, shapePoints } from "../../window/things";

export interface View {
  /** A job place as it lies on the sheet: to the right, and up. */
  to: (point: Point3) => Point3;
  /** The job place of a spot on the sheet; `depth` is the height in plan, the distance behind the plane in elevation. */
  from: (x: number, y: number, depth: number) => Point3;
}

export const planView: View = { to: (point) => point, from: (x, y, depth) => [x, y, depth] };

export function elevationView(plane: Plane): View {
  const [dx, dy] = [plane.b[0] - plane.a[0], plane.b[1] - plane.a[1]];
  const size = Math.hypot(dx, dy) || 1;
  const [c, s] = [dx / size, dy / size];
  return {
    to: ([x, y, z]) => {
      const [px, py] = [x - plane.a[0], y - plane.a[1]];
      return [px * c + py * s, z, py * c - px * s];
    },
    from: (x, y, depth) => [plane.a[0] + c * x - s * depth, plane.a[1] + s * x + c * depth, y],
  };
}

/** The job as it is seen on a plane: its lines and what is wrong; what is made along them is drawn by itself. */
export function projected(shown: JobShown, view: View): JobShown {
  const points = (list: readonly (readonly number[])[] | null | undefined) =>
    list ? (list.map((point) => view.to(point as Point3)) as Point3[]) : null;
  const lines = (shown.job.lines ?? []).map((line) => ({
    ...line,
    start: view.to(line.start as Point3),
    legs: line.legs.map((leg) => ({ ...shapedBy(leg, shapePoints(leg).map(view.to)), to: view.to(leg.to as Point3) })),
  })) as Line[];
  return {
    ...shown,
    job: { ...shown.job, lines, pictures: [] },
    lines: shown.lines.map((line) => ({
      ...line,
      path: points(line.path) as never,
      wall_footprints: [],
      faults: line.faults.map((fault) => ({ ...fault, point: view.to(fault.point as Point3) as never })),
    })),
    runs: [],
    rows: [],
    typicals: [],
    checks: shown.checks.map((check) => ({ ...check, point: view.to(check.point as Point3) as never })),
  };
}
