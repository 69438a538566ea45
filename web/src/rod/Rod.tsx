/** The rod: the selected run, row or line unrolled from left to right, marked by chainage. */
import { scaleLinear } from "d3-scale";
import type { Between, LineFigures } from "../api/client";
import { lineWords } from "../card/line/LineCard";
import { countOf, STRIDE } from "../sheet/items";
import { useOneRowPlaces } from "../sheet/places";
import { chainageTicks } from "../sheet/plan/frame";
import { FirstUse } from "../ui/FirstUse";
import { count, formatAngle, formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { groupIn } from "../window/groups";
import { useChanges, useSentence, useShown, useUnits } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { checksOf, lineFigures, lineOf, namedMarks, rowById, rowFigures, runById, runFigures } from "../window/things";
import { heldAt, ItemMarks, ItemsOnRod } from "./ItemsOnRod";
import { JointsOnRod } from "./JointsOnRod";
import { HeightsOnRod, LegsOnRod, MarksOnRod } from "./LineOnRod";
import { FOOT, type Scale, spans, TOP } from "./measure";
import { OpeningsOnRod } from "./OpeningsOnRod";
import { Corners, Pieces } from "./RunOnRod";
import { TotalsOnRod } from "./TotalsOnRod";

export function Rod({ thin = false }: { thin?: boolean }) {
  const shown = useShown();
  const units = useUnits();
  const sentence = useSentence();
  const { selected, piece, pointAt, select, stretches } = usePart(
    "selected",
    "piece",
    "pointAt",
    "select",
    "stretches",
  );
  const cutHere = useWindow((state) => (state.view === "across" ? state.chainage : null));
  const [ref, size] = useSize<HTMLDivElement>();
  const group = (one: string | undefined) => (one ? groupIn(shown.job, one) : null);
  const id = selected.find((one) => group(one) !== "sections" && group(one) !== "pictures");
  const line = lineOf(shown, id);
  const rowOfJob = id ? rowById(shown, id) : undefined;
  const { edit } = useChanges();
  const figures = line && lineFigures(shown, line.id);
  const run = id && group(id) === "runs" ? runFigures(shown, id) : undefined;
  const ofJob = runById(shown, id);
  const figuresOfRow = id && group(id) === "rows" ? rowFigures(shown, id) : undefined;
  // What fills the ground within a line stands nowhere along it.
  const row = figuresOfRow?.area === null ? figuresOfRow : undefined;
  // Rows on the same line are marked too, so that posts can be seen against pieces.
  const beside =
    !row && line ? shown.rows.find((one) => one.area === null && rowById(shown, one.id)?.line === line.id) : undefined;
  const places = useOneRowPlaces(row ?? beside);
  const name = (id && (runById(shown, id)?.name ?? rowById(shown, id)?.name)) ?? line?.name;
  if (!id || !line || !figures) {
    return <TotalsOnRod thin={thin} />;
  }
  const length = figures.length;
  const width = size.width;
  const x = scaleLinear([0, length], [1, Math.max(2, width - 1)]);
  const ticks = chainageTicks(length, units.system ?? "mm", width / 75);
  const fine = chainageTicks(length, units.system ?? "mm", width / 17);
  const at = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return Math.min(length, Math.max(0, x.invert(event.clientX - box.left)));
  };
  // While a cut across the line is looked at, a hand on the rod leads it.
  const cutAt = (chainage: number) => {
    if (useWindow.getState().view === "across") useWindow.getState().set({ chainage: Math.round(chainage) });
  };
  const about = run
    ? `unrolled · ${count(run.pieces.length, "piece")} · ${formatLength(length, units)}`
    : row
      ? `unrolled · ${count(row.count, "item")} · ${formatLength(length, units)}`
      : `unrolled · ${lineWords(line, figures)} · ${formatLength(length, units)}`;
  const rising = figures.heights as [number, number][];
  const rise = rising.length ? (rising.at(-1)?.[1] ?? 0) - (rising[0]?.[1] ?? 0) : 0;
  return (
    <section
      aria-label="Rod"
      className={`col-span-full flex min-w-0 flex-col border-rule border-t px-4 ${thin ? "pt-1.5" : "pt-2"}`}
    >
      <div className="flex items-baseline text-sm">
        <b className="max-w-[40%] shrink-0 truncate">{name}</b>
        <span className="ml-4 min-w-0 truncate text-pencil">
          {about}
          {run && ` · faces ${run.right ? "right" : "left"} of travel`}
          {rising.length > 0 &&
            ` · ${line.closed ? "not level" : `${rise < 0 ? "falls" : "rises"} ${formatLength(Math.abs(rise), units)}`} · ${formatLength(figures.plan_length, units)} on plan, ${formatLength(length, units)} true`}
        </span>
        <span className="flex-1" />
        {run && !thin && (
          <div className="ml-4 shrink-0 whitespace-nowrap">
            <FirstUse
              part="rod"
              acts={[
                "Click a piece for its figures",
                "drag an opening or a joint",
                "click a corner to make it otherwise",
              ]}
            />
          </div>
        )}
        <span className="ml-4 whitespace-nowrap text-pencil">
          <PointingAt line={line.id} />
        </span>
      </div>
      <div ref={ref} hidden={thin} className="relative min-h-0 flex-1">
        <svg
          role="application"
          tabIndex={0}
          onKeyDown={(event) => {
            const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
            if (row && by && places) {
              event.preventDefault();
              const items = countOf(places);
              if (event.shiftKey && piece !== null) {
                const here = places[piece * STRIDE + 4] ?? 0;
                const to = Math.min(length, Math.max(0, here + by * (event.altKey ? 1 : 10)));
                void edit([heldAt(row.id, here, to)]);
              } else if (items && id) {
                const next = piece === null ? (by > 0 ? 0 : items - 1) : (piece + by + items) % items;
                select([id], next);
                pointAt({ line: line.id, chainage: places[next * STRIDE + 4] ?? 0 });
              }
              return;
            }
            if (!run || !by) return;
            event.preventDefault();
            const next =
              piece === null
                ? by > 0
                  ? 0
                  : run.pieces.length - 1
                : (piece + by + run.pieces.length) % run.pieces.length;
            const one = run.pieces[next];
            select([id], next);
            if (one) pointAt({ line: line.id, chainage: one.begin });
          }}
          aria-label={
            row
              ? `Rod of ${name}: the arrow keys go from item to item, and with Shift move the one that is picked`
              : `Rod of ${name}: the arrow keys go from piece to piece`
          }
          width={width}
          height={FOOT}
          className="-mt-5 absolute top-0 left-0 group cursor-crosshair outline-none"
          onPointerDown={(event) => {
            if (event.button === 0) cutAt(at(event));
          }}
          onPointerMove={(event) => {
            pointAt({ line: line.id, chainage: at(event) });
            if (event.buttons & 1) cutAt(at(event));
          }}
          onPointerLeave={() => pointAt(null)}
          onClick={(event) => {
            if (run && useWindow.getState().view === "across") return;
            const here = x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left);
            if (!run) {
              if (row) return;
              // A click takes the chainage, and where the line has openings the stretch between two of them.
              const found = figures.stretches.find((one) =>
                spans(one.begin, one.begin + one.length, length).some(([from, to]) => here >= from && here <= to),
              );
              const more = event.ctrlKey || event.metaKey || event.shiftKey;
              const same = (one: Between) => one.after === found?.after && one.before === found?.before;
              const old = more ? (stretches ?? []) : [];
              const chosen = old.some(same) ? old.filter((one) => !same(one)) : [...old, found as Between];
              const several = figures.stretches.length > 1 && found !== undefined;
              useWindow.getState().set({
                chainage: Math.round(Math.min(length, Math.max(0, here))),
                stretches: several && chosen.length ? chosen.map(({ after, before }) => ({ after, before })) : null,
              });
              return;
            }
            const found = run.pieces.findIndex(
              (one) => !one.part && spans(one.begin, one.end, length).some(([from, to]) => here >= from && here <= to),
            );
            select([id], found >= 0 ? found : null);
          }}
        >
          <defs>
            <linearGradient id="lath" x1="0" y1="0" x2="0" y2="1">
              <stop offset="0" stopColor="var(--color-lath)" />
              <stop offset="1" stopColor="var(--color-lath-deep)" />
            </linearGradient>
          </defs>
          <rect
            x={0.5}
            y={TOP}
            width={Math.max(0, width - 1)}
            height={FOOT - 24 - TOP}
            rx={2}
            fill="url(#lath)"
            stroke="var(--color-lath-edge)"
            className="group-focus-visible:stroke-2 group-focus-visible:stroke-chalk"
          />
          {[11, 23, 33, 45].map((y, i) => (
            <path
              key={y}
              d={`M1 ${TOP + y}C${width * 0.3} ${TOP + y - 3 + i * 2} ${width * 0.6} ${TOP + y + 3 - i} ${width - 1} ${TOP + y - 1}`}
              fill="none"
              stroke="var(--color-lath-edge)"
              strokeOpacity={0.35}
            />
          ))}
          <g className="figure text-pencil" fill="currentColor" fontSize={12}>
            {fine.map((tick) => (
              <path key={tick} d={`M${x(tick)} ${TOP}v4`} stroke="var(--color-lath-ink)" strokeWidth={0.8} />
            ))}
            {ticks.map((tick) => (
              <g key={tick}>
                <path d={`M${x(tick)} ${TOP}v8`} stroke="var(--color-lath-ink)" />
                <text
                  x={x(tick)}
                  y={TOP - 5}
                  textAnchor={tick === 0 ? "start" : x(tick) > width - 30 ? "end" : "middle"}
                >
                  {formatLength(tick, units)}
                </text>
              </g>
            ))}
          </g>
          {!run && rising.length > 0 && <HeightsOnRod line={figures} x={x} />}
          {stretches?.map((between) => {
            const stretch = figures.stretches.find(
              (one) => one.after === between.after && one.before === between.before,
            );
            return stretch
              ? spans(stretch.begin, stretch.begin + stretch.length, length).map(([from, to]) => (
                  <rect
                    key={`${between.after}${between.before}${from}`}
                    x={x(from)}
                    y={TOP}
                    width={x(to) - x(from)}
                    height={FOOT - 24 - TOP}
                    fill="var(--color-chalk)"
                    fillOpacity={0.22}
                  />
                ))
              : null;
          })}
          {places && !row && (
            <ItemMarks places={places} x={x} shape={(place) => `M${place - 2.5} ${FOOT - 31}h5v7h-5z`} />
          )}
          <LegsOnRod line={figures} x={x} named={!run} />
          {run && <Pieces run={run} length={length} x={x} piece={piece} units={units} openings={line.openings ?? []} />}
          {run && <Corners corners={run.corners} x={x} />}
          {run && ofJob && (
            <JointsOnRod run={ofJob} figures={run} length={length} x={x} invert={(px) => x.invert(px)} />
          )}
          {!run && <Bends line={figures} x={x} />}
          <MarksOnRod marks={namedMarks(line)} x={x} />
          <OpeningsOnRod
            line={line}
            length={length}
            x={x}
            invert={(px) => x.invert(px)}
            passed={(runById(shown, id) ?? rowById(shown, id))?.openings === "pass"}
          />
          {row && places && rowOfJob && (
            <ItemsOnRod
              row={rowOfJob}
              figures={row}
              places={places}
              length={length}
              x={x}
              invert={(px) => x.invert(px)}
            />
          )}
          {checksOf(shown, id).map((check, index) => (
            <g key={index} transform={`translate(${x(check.chainage)} ${FOOT - 23})`}>
              <path d="M0 0l6.5 11h-13z" fill={check.severity === "fault" ? "var(--color-red)" : "var(--color-wax)"} />
              <title>{`${sentence(check.what)} ${sentence(check.remedy)}`}</title>
            </g>
          ))}
          {cutHere !== null && (
            <g className="text-wax-deep" pointerEvents="none" data-cut-at={cutHere}>
              <path
                d={`M${x(Math.min(cutHere, length))} ${TOP - 6}V${FOOT - 20}`}
                stroke="currentColor"
                strokeWidth={1.6}
              />
              <title>{`The cut at ${formatLength(cutHere, units)}`}</title>
            </g>
          )}
          <PointedOnRod line={line.id} x={x} />
        </svg>
      </div>
    </section>
  );
}

/** A line's own corners: it has no face, so they are neither internal nor external. */
function Bends({ line, x }: { line: LineFigures; x: Scale }) {
  let last = Number.NEGATIVE_INFINITY;
  return (
    <g>
      {line.bends.map((bend, index) => {
        const place = x(bend.chainage);
        const label = formatAngle(bend.angle);
        const room = place - last > label.length * 6 + 12;
        if (room) last = place;
        return (
          <g key={index}>
            <path d={`M${place} ${TOP}V${FOOT - 24}`} stroke="var(--color-pencil)" strokeDasharray="2 3" />
            {room && (
              <text
                x={Math.max(12, place)}
                y={FOOT - 7}
                textAnchor="middle"
                fontSize={12}
                className="figure"
                fill="var(--color-pencil)"
              >
                {label}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** The chainage that is pointed at on a line, if any. */
function usePointed(line: string): number | null {
  return useWindow((state) => (state.pointed?.line === line ? state.pointed.chainage : null));
}

function PointingAt({ line }: { line: string }) {
  const units = useUnits();
  const chainage = usePointed(line);
  if (chainage === null) return null;
  return (
    <>
      pointing at <b className="figure text-chalk-deep">{formatLength(chainage, units)}</b>
    </>
  );
}

function PointedOnRod({ line, x }: { line: string; x: Scale }) {
  const chainage = usePointed(line);
  if (chainage === null) return null;
  return (
    <g pointerEvents="none">
      <path d={`M${x(chainage)} ${TOP - 2}V${FOOT - 24}`} stroke="var(--color-chalk)" strokeWidth={1.6} />
      <path d={`M${x(chainage) - 6} ${TOP - 12}h12l-6 10z`} fill="var(--color-chalk)" />
    </g>
  );
}
