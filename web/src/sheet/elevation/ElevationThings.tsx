/** Runs and rows as they are seen square to an upright plane: what lies further behind it is drawn first. */
import { useQuery } from "@tanstack/react-query";
import { memo, useContext, useEffect } from "react";
import { answer, api, type JobShown, problemOf, type RunSeen } from "../../api/client";
import { outlineOf } from "../../api/merging";
import { JobId } from "../../window/job";
import { isIn } from "../../window/selection";
import { type Plane, useWindow } from "../../window/store";
import { rowById, runById, sectionById } from "../../window/things";
import { useRowPlaces } from "../places";
import { type Sheet, toSheet } from "../plan/frame";
import { type Material, toneOf } from "../tones";
import { elevationView } from "./plane";

interface Shape {
  thing: string;
  piece: number | null;
  depth: number;
  d: string;
  material: Material | undefined;
}

export function ElevationThings({ whole, plane, frame, width, height }: Sheet & { whole: JobShown; plane: Plane }) {
  const selected = useWindow((state) => state.selected);
  const piece = useWindow((state) => state.piece);
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  return (
    <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`}>
      <Things {...{ whole, plane, selected, piece }} />
    </g>
  );
}

const Things = memo(function Things({
  whole,
  plane,
  selected,
  piece,
}: {
  whole: JobShown;
  plane: Plane;
  selected: string[];
  piece: number | null;
}) {
  const [runs, rows] = [useRunsSeen(whole, plane), useRowsSeen(whole, plane)];
  const shapes = [...runs, ...rows].sort((a, b) => b.depth - a.depth);
  return shapes.map((shape) => {
    const on = isIn(selected, shape.thing);
    const tone = toneOf(shape.material);
    const fill = piece !== null && piece === shape.piece ? "var(--color-chalk-soft)" : "var(--color-chalk-pale)";
    return (
      <path
        key={`${shape.thing} ${shape.piece}`}
        d={shape.d}
        fillRule="evenodd"
        fill={on ? fill : tone.face}
        stroke={on ? "var(--color-chalk-deep)" : tone.edge}
        strokeWidth={on ? 1.3 : 0.8}
        opacity={selected.length && !on ? 0.75 : 1}
        vectorEffect="non-scaling-stroke"
        data-pick={shape.thing}
        data-piece={shape.piece ?? undefined}
        className="cursor-pointer"
      />
    );
  });
});

/** The pieces of runs, as far as they have come; while a run is dragged it is seen as it was. */
function useRunsSeen(whole: JobShown, { a, b }: Plane): Shape[] {
  const id = useContext(JobId);
  const keys = whole.runs.map((run) => run.key);
  const { data, error } = useQuery({
    queryKey: ["elevation", id, a, b, keys.join()],
    queryFn: () =>
      answer<RunSeen[]>(api.POST("/api/jobs/{id}/elevation", { params: { path: { id } }, body: { a, b, keys } })).then(
        (seen) => {
          const pieces = new Map(seen.map((run) => [run.key, run.pieces]));
          // By the run, so that what changes of it is seen as it was until it has come anew.
          return new Map(whole.runs.map((run) => [run.id, pieces.get(run.key) ?? []]));
        },
      ),
    enabled: keys.length > 0,
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
  useEffect(() => {
    if (error) useWindow.getState().set({ problem: problemOf(error) });
  }, [error]);
  if (!data) return [];
  return whole.runs.flatMap((run) => {
    const material = sectionById(whole, runById(whole, run.id)?.section)?.material;
    return (data.get(run.id) ?? []).map((seen, piece) => ({
      thing: run.id,
      piece,
      material,
      depth: seen.depth,
      d: seen.outline.map((loop) => closed(outlineOf(loop))).join(""),
    }));
  });
}

/** Items stand upright on their feet, so that each is seen as a rectangle; one shape for a row. */
function useRowsSeen(whole: JobShown, plane: Plane): Shape[] {
  const places = useRowPlaces(whole.rows);
  const view = elevationView(plane);
  return whole.rows.flatMap((figures) => {
    const [row, at] = [rowById(whole, figures.id), places.get(figures.id)];
    if (!row || !at) return [];
    const [ox = 0, oy = 0, oz = 0] = figures.origin as number[];
    const many = figures.count > 4000;
    const seen: { depth: number; d: string }[] = [];
    for (let i = 0; i + 4 < at.length; i += 5) {
      const [x = 0, y = 0, z = 0, heading = 0] = at.subarray(i, i + 4);
      const [c, s] = [Math.cos(heading), Math.sin(heading)];
      const foot = figures.footprint.map(([along = 0, across = 0]) =>
        view.to([ox + x + along * c - across * s, oy + y + along * s + across * c, oz + z]),
      );
      const aside = foot.map((point) => point[0]);
      const [left, right, low] = [Math.min(...aside), Math.max(...aside), oz + z];
      const high = low + figures.height;
      seen.push({
        depth: foot.reduce((sum, point) => sum + point[2], 0) / foot.length,
        d: many
          ? `M${left.toFixed(0)} ${low.toFixed(0)}V${high.toFixed(0)}`
          : closed([
              [left, low],
              [right, low],
              [right, high],
              [left, high],
            ]),
      });
    }
    const depth = seen.reduce((sum, one) => sum + one.depth, 0) / (seen.length || 1);
    const d = seen.map((one) => one.d).join("");
    return [{ thing: row.id, piece: null, depth, d, material: row.material }];
  });
}

const closed = (points: readonly (readonly number[])[]) =>
  points.length ? `M${points.map(([x = 0, y = 0]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z` : "";
