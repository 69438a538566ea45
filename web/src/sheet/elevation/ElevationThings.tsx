/** Runs and rows as they are seen square to an upright plane: what lies further behind it is drawn first. */
import { useQuery } from "@tanstack/react-query";
import { memo, useContext, useEffect } from "react";
import { answer, api, type JobShown, problemOf, type RunSeen } from "../../api/client";
import { outlineOf } from "../../api/merging";
import { JobId } from "../../window/job";
import { isIn } from "../../window/selection";
import { type Plane, useWindow } from "../../window/store";
import { runById, sectionById } from "../../window/things";
import { countOf, itemSeen } from "../items";
import { useRowPlaces } from "../places";
import { type Sheet, toSheet } from "../plan/frame";
import { type Material, toneOf } from "../tones";
import { elevationView } from "./plane";

interface Shape {
  thing: string;
  piece: number | null;
  /** Which of a row's items it is. */
  part?: number;
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
        key={`${shape.thing} ${shape.piece} ${shape.part}`}
        d={shape.d}
        // Parts of an item lie on one another.
        fillRule={shape.part === undefined ? "evenodd" : "nonzero"}
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

/** Items as they are seen, each by its outline; those of a row that are alike are one shape. */
function useRowsSeen(whole: JobShown, plane: Plane): Shape[] {
  const places = useRowPlaces(whole.rows);
  const view = elevationView(plane);
  return whole.rows.flatMap((figures) => {
    const at = places.get(figures.id);
    if (!at) return [];
    const seen = Array.from({ length: countOf(at) }, (_, number) => itemSeen(figures, at, number, view.to)).filter(
      (one) => one !== null,
    );
    return figures.items.flatMap(({ material }, letter) => {
      const alike = seen.filter((one) => one.letter === letter);
      const depth = alike.reduce((sum, one) => sum + one.depth, 0) / (alike.length || 1);
      const d = alike.map((one) => one.d).join("");
      return d ? [{ thing: figures.id, piece: null, part: letter, depth, d, material }] : [];
    });
  });
}

const closed = (points: readonly (readonly number[])[]) =>
  points.length ? `M${points.map(([x = 0, y = 0]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z` : "";
