/** What is drawn once, on the plan in its other places; on an upright plane the lines of it. */
import { memo, useMemo } from "react";
import type { JobShown, PlaceFigures, Point3, Typical } from "../../api/client";
import { footprintsOf } from "../../api/merging";
import { carried, onPlan, type Stands, standing } from "../../window/instances";
import { useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { useWindow } from "../../window/store";
import { lineById, pathOf, runById, sectionById } from "../../window/things";
import type { View } from "../elevation/plane";
import { itemsPath } from "../items";
import { useRowPlaces } from "../places";
import { toneOf } from "../tones";
import { boxOf, type Sheet, toSheet } from "./frame";

/** More places than this are marked by their lines alone, and more than the second by a mark each. */
const [MANY, VERY_MANY] = [400, 2000];
/** So many places at most are named on the sheet. */
const NAMED = 80;

/** `whole` is the job as it is, where the sheet shows it as seen on a plane. */
export function PlanPlaces({ frame, width, height, whole, view }: Sheet & { whole: JobShown; view: View }) {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  const picked = useWindow((state) => state.places);
  if (!whole.job.typicals?.length) return null;
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  const upright = shown !== whole;
  const named = whole.job.typicals.filter((typical) => isIn(selected, typical.id));
  return (
    <>
      <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`}>
        {whole.job.typicals.map((typical) => (
          <OneTypical
            key={typical.id}
            shown={whole}
            typical={typical}
            on={isIn(selected, typical.id)}
            picked={isIn(selected, typical.id) ? picked : NONE}
            to={upright ? view.to : null}
          />
        ))}
      </g>
      {named.map((typical) => (
        <Names key={typical.id} {...{ frame, width, height, view, whole, typical, picked }} />
      ))}
    </>
  );
}

/** The names of a typical's places beside where they are. */
function Names({
  frame,
  width,
  height,
  view,
  whole,
  typical,
  picked,
}: Sheet & { view: View; whole: JobShown; typical: Typical; picked: string[] }) {
  const places = whole.typicals.find((one) => one.id === typical.id)?.places ?? [];
  if (places.length > NAMED) return null;
  const paths = typical.lines.flatMap((id) => {
    const line = lineById(whole, id);
    return line ? [pathOf(whole, line).points] : [];
  });
  const box = boxOf(paths.flat());
  if (!box) return null;
  const z = paths[0]?.[0]?.[2] ?? 0;
  const middle: Point3 = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2, z];
  const spots = places.map((place) => {
    const seen = view.to(carried(place, middle));
    return { place, at: toSheet(frame, width, height, seen[0], seen[1]) };
  });
  // Beside what stands there, away from the middle of all.
  const around = boxOf(spots.map((spot) => spot.at)) ?? [0, 0, 0, 0];
  const [mx, my] = [(around[0] + around[2]) / 2, (around[1] + around[3]) / 2];
  return (
    <g pointerEvents="none" fontSize={12} textAnchor="middle">
      {spots.map(({ place, at: [x, y] }) => {
        const far = Math.hypot(x - mx, y - my) || 1;
        return (
          <text
            key={place.name}
            x={x + (18 * (x - mx)) / far}
            y={y + 4 + (14 * (y - my)) / far}
            className={`halo ${picked.includes(place.name) ? "fill-chalk-deep font-semibold" : "fill-chalk"}`}
          >
            {place.name}
          </text>
        );
      })}
    </g>
  );
}

const NONE: string[] = [];

const OneTypical = memo(function OneTypical(props: {
  shown: JobShown;
  typical: Typical;
  on: boolean;
  picked: string[];
  /** Where a point is seen, where that is not on plan. */
  to: ((point: Point3) => [number, number, number]) | null;
}) {
  const { shown, typical, on, picked, to } = props;
  const stands = useMemo(() => standing(shown, typical.id), [shown, typical.id]);
  const count = stands.reduce((sum, one) => sum + one.places.length, 0);
  const names = new Set(picked);
  return (
    <>
      {stands.map((variant) => (
        <g key={variant.number}>
          {!to && count <= MANY && <Drawn shown={shown} typical={typical.id} variant={variant} on={on} names={names} />}
          <Lines {...props} variant={variant} names={names} sparse={count > VERY_MANY} />
        </g>
      ))}
    </>
  );
});

/** The runs and items of a variant, drawn once and used in each of its places. */
function Drawn({
  shown,
  typical,
  variant,
  on,
  names,
}: {
  shown: JobShown;
  typical: string;
  variant: Stands;
  on: boolean;
  names: Set<string>;
}) {
  const rows = useRowPlaces(variant.rows);
  const name = (chosen: boolean) => `stands-${typical}-${variant.number}${chosen ? "-picked" : ""}`;
  const drawn = (chosen: boolean) => (
    <g id={name(chosen)}>
      {variant.runs.map((run) => {
        const tone = toneOf(sectionById(shown, runById(shown, run.id)?.section)?.material);
        const [fill, edge] = on
          ? [chosen ? "var(--color-chalk-soft)" : "var(--color-chalk-pale)", "var(--color-chalk-deep)"]
          : [tone.face, tone.edge];
        return (
          <path
            key={run.id}
            d={footprintsOf(run).flat().map(around).join("")}
            fillRule="evenodd"
            fill={fill}
            stroke={edge}
            strokeWidth={on ? 1.3 : 0.8}
            vectorEffect="non-scaling-stroke"
          />
        );
      })}
      {variant.rows.map((row) => {
        const places = rows.get(row.id);
        return (
          places &&
          row.items.map((item, letter) => {
            const tone = toneOf(item.material);
            return (
              <path
                key={`${row.id} ${item.letter}`}
                d={itemsPath(row, places, letter)}
                fill={on ? "var(--color-chalk-pale)" : tone.face}
                stroke={on ? "var(--color-chalk-deep)" : tone.edge}
                vectorEffect="non-scaling-stroke"
              />
            );
          })
        );
      })}
    </g>
  );
  return (
    <>
      <defs>
        {drawn(false)}
        {drawn(true)}
      </defs>
      {variant.places.map((place) => (
        <use
          key={place.name}
          href={`#${name(names.has(place.name))}`}
          transform={onPlan(place)}
          data-pick={typical}
          data-place={place.name}
          className="cursor-pointer"
        />
      ))}
    </>
  );
}

/** The lines of a typical in some of its places, to be seen and to be picked by. */
function Lines({
  typical,
  on,
  to,
  variant,
  names,
  sparse,
}: {
  typical: Typical;
  on: boolean;
  to: ((point: Point3) => [number, number, number]) | null;
  variant: Stands;
  names: Set<string>;
  sparse: boolean;
}) {
  const { places, paths } = variant;
  const d = (place: PlaceFigures) =>
    paths
      .map((points) => {
        const some = sparse ? [points[0] as Point3] : points;
        const seen = some.map((point) => (to ? to(carried(place, point)) : carried(place, point)));
        const words = seen.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`);
        return sparse ? `M${words[0]}h1` : `M${words.join("L")}`;
      })
      .join("");
  const seen = (some: PlaceFigures[], strong: boolean) =>
    some.length > 0 && (
      <path
        d={some.map(d).join("")}
        fill="none"
        stroke={strong || on ? "var(--color-chalk)" : "var(--color-chalk-quiet)"}
        strokeWidth={strong ? 2.4 : sparse ? 3 : 1.2}
        vectorEffect="non-scaling-stroke"
        pointerEvents="none"
      />
    );
  return (
    <>
      {seen(
        places.filter((place) => !names.has(place.name)),
        false,
      )}
      {seen(
        places.filter((place) => names.has(place.name)),
        true,
      )}
      {!sparse &&
        places.map((place) => (
          <path
            key={place.name}
            d={d(place)}
            fill="none"
            stroke="transparent"
            strokeWidth={11}
            vectorEffect="non-scaling-stroke"
            pointerEvents="stroke"
            data-pick={typical.id}
            data-place={place.name}
            className="cursor-pointer"
          >
            <title>
              {typical.name}, {place.name}
            </title>
          </path>
        ))}
    </>
  );
}

const around = (points: readonly (readonly number[])[]) =>
  points.length ? `M${points.map((point) => `${point[0]} ${point[1]}`).join("L")}Z` : "";
