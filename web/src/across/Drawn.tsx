/** What is drawn in a cut across a line: walls, runs as they are drawn and as they are cut there, dimensions and levels. */
import type { CutShown, Run, RunFigures, Section } from "../api/client";
import { toneOf } from "../sheet/tones";
import { formatLength } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { runById, sectionOfRun } from "../window/things";
import { type Box, type CutFrame, onSheet, type Spot } from "./frame";

/** A run on the line, as it is placed. */
export interface Placed {
  run: Run;
  figures: RunFigures;
  section: Section;
  path: string;
  box: Box;
  datum: Spot;
}

export function boxOf(one: CutShown["others"][number]): Box {
  const xs = one.corners.map((corner) => corner[0] as number);
  const ys = one.corners.map((corner) => corner[1] as number);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export function Hatch({ scale }: { scale: number }) {
  return (
    <pattern
      id="masonry"
      width={9}
      height={9}
      patternUnits="userSpaceOnUse"
      patternTransform={`scale(${1 / scale}) rotate(45)`}
    >
      <rect width={9} height={9} fill="var(--color-bench)" />
      <path d="M0 0V9" stroke="var(--color-edge)" strokeWidth={1.6} />
    </pattern>
  );
}

export function Level({ frame, width }: { frame: CutFrame; width: number }) {
  return <path d={`M0 ${frame.y}H${width}`} stroke="var(--color-chalk-soft)" strokeWidth={1} strokeDasharray="12 5" />;
}

export function LinePoint({ frame }: { frame: CutFrame }) {
  return (
    <g pointerEvents="none">
      <circle cx={frame.x} cy={frame.y} r={5} fill="var(--color-white)" stroke="var(--color-chalk)" strokeWidth={2.4} />
      <text x={frame.x - 10} y={frame.y + 18} fontSize={13} textAnchor="end" className="halo fill-chalk-deep">
        line
      </text>
    </g>
  );
}

export function Other({ one, frame }: { one: CutShown["others"][number]; frame: CutFrame }) {
  const shown = useShown();
  const run = runById(shown, one.thing);
  const tone = toneOf(sectionOfRun(shown, run)?.material);
  const words = one.wall ? "wall" : (run?.name ?? "");
  const [left, , right, high] = boxOf(one);
  const [x, y] = onSheet(frame, [(left + right) / 2, high]);
  return (
    <g data-run={undefined}>
      <g transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale} ${-frame.scale})`}>
        <path
          d={one.path}
          fill={one.wall ? "url(#masonry)" : tone.face}
          fillOpacity={one.wall ? 1 : 0.7}
          stroke={one.wall ? "var(--color-pencil)" : tone.edge}
          strokeWidth={1.2}
          fillRule="evenodd"
          vectorEffect="non-scaling-stroke"
        >
          <title>{words}</title>
        </path>
      </g>
      {!one.wall && (
        <text x={x} y={y - 6} textAnchor="middle" fontSize={12.5} className="halo fill-pencil" pointerEvents="none">
          {words}
        </text>
      )}
    </g>
  );
}

export function OnLine({
  one,
  frame,
  on,
  cut,
}: {
  one: Placed;
  frame: CutFrame;
  on: boolean;
  /** What is cut of it there, where that is not its section alone. */
  cut: CutShown["cuts"][number] | undefined;
}) {
  const [[a, b], [c, d]] = one.figures.matrix as [[number, number], [number, number]];
  const [e, f] = one.figures.shift as Spot;
  const tone = toneOf(one.section.material);
  const [dx, dy] = onSheet(frame, one.datum);
  const [x, y] = onSheet(frame, [(one.box[0] + one.box[2]) / 2, one.box[3]]);
  const [fill, stroke, wide] = on
    ? ["var(--color-timber)", "var(--color-chalk-deep)", 2.4]
    : [tone.face, tone.edge, 1.3];
  return (
    <g>
      {cut && (
        <g transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale} ${-frame.scale})`} pointerEvents="none">
          <path
            data-cut={one.run.id}
            d={cut.path}
            fill={fill}
            stroke={stroke}
            strokeWidth={wide}
            fillRule="evenodd"
            vectorEffect="non-scaling-stroke"
          />
        </g>
      )}
      <g
        transform={`translate(${frame.x} ${frame.y}) scale(${frame.scale} ${-frame.scale}) matrix(${a} ${c} ${b} ${d} ${e} ${f})`}
      >
        <path
          data-run={one.run.id}
          className="cursor-move"
          d={one.path}
          fill={cut ? "transparent" : fill}
          stroke={cut ? "var(--color-chalk)" : stroke}
          strokeWidth={cut ? 1.2 : wide}
          strokeDasharray={cut ? "5 3" : undefined}
          fillRule="evenodd"
          vectorEffect="non-scaling-stroke"
        >
          <title>{cut ? `${one.run.name}, as it is drawn` : `${one.run.name}: drag it about its line`}</title>
        </path>
      </g>
      {!on && (
        <text x={x} y={y - 6} textAnchor="middle" fontSize={12.5} className="halo fill-pencil" pointerEvents="none">
          {one.run.name}
        </text>
      )}
      {on && (
        <g pointerEvents="none">
          <path d={`M${dx} ${dy}l7 12h-14z`} fill="var(--color-wax)" />
          <text x={dx + 11} y={dy + 15} fontSize={13} className="halo fill-wax-deep">
            datum
          </text>
        </g>
      )}
    </g>
  );
}

/** How high the top and the bottom of a run lie in the job. */
export function Levels({ frame, one, height }: { frame: CutFrame; one: Placed; height: number }) {
  const units = useUnits();
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const [, low, right, high] = one.box;
  return (
    <g className="figure fill-wax-deep" fontSize={13} pointerEvents="none">
      {[low, high].map((mm) => {
        const [x, y] = onSheet(frame, [Math.max(right, 0), mm]);
        return (
          <g key={mm}>
            <path d={`M${x + 16} ${y}h34`} stroke="var(--color-wax)" strokeWidth={1} />
            <path d={`M${x + 20} ${y - 6}h10l-5 6z`} fill="var(--color-wax)" />
            <text x={x + 54} y={y + 4.5} className="halo">
              {formatLength(height + mm, fine).replace(/\.0$/, "")}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** How far the faces of a run lie from its line: its top and bottom beside it, its front and back over it. */
export function Dimensions({ frame, one, far }: { frame: CutFrame; one: Placed; far: boolean }) {
  const units = useUnits();
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const tidy = (mm: number) => formatLength(mm, fine).replace(/\.0$/, "");
  const [left, low, right, high] = one.box;
  const [x0, y0] = onSheet(frame, far ? [left, high] : [Math.min(left, 0), Math.max(high, 0)]);
  const middle = onSheet(frame, [(left + right) / 2, low])[0];
  const across = [...new Set([...(far ? [] : [0]), left, right].map((mm) => Math.round(mm * 1e4) / 1e4))].sort(
    (a, b) => a - b,
  );
  const up = [...new Set([...(far ? [] : [0]), low, high].map((mm) => Math.round(mm * 1e4) / 1e4))].sort(
    (a, b) => a - b,
  );
  const [dx, dy] = [x0 - 44, y0 - 40];
  const away = [
    low > 0 ? `${tidy(low)} above the line` : high < 0 ? `${tidy(-high)} below the line` : "",
    left > 0 ? `${tidy(left)} right of it` : right < 0 ? `${tidy(-right)} left of it` : "",
  ];
  return (
    <g className="figure text-pencil" fontSize={14} pointerEvents="none">
      {far && (
        <text x={middle} y={dy - 30} textAnchor="middle" className="halo fill-chalk-deep">
          {away.filter(Boolean).join(", ")}
        </text>
      )}
      {across.slice(1).map((mm, i) => {
        const [a, b] = [onSheet(frame, [across[i] ?? 0, 0])[0], onSheet(frame, [mm, 0])[0]];
        return (
          <g key={mm} stroke="currentColor" fill="none">
            <path d={`M${a} ${dy}H${b}M${a - 4} ${dy + 4}l8 -8M${b - 4} ${dy + 4}l8 -8`} />
            <text x={(a + b) / 2} y={dy - 8} textAnchor="middle" fill="var(--color-ink)" stroke="none" className="halo">
              {tidy(mm - (across[i] ?? 0))}
            </text>
          </g>
        );
      })}
      {up.slice(1).map((mm, i) => {
        const [a, b] = [onSheet(frame, [0, up[i] ?? 0])[1], onSheet(frame, [0, mm])[1]];
        return (
          <g key={mm} stroke="currentColor" fill="none">
            <path d={`M${dx} ${a}V${b}M${dx - 4} ${a + 4}l8 -8M${dx - 4} ${b + 4}l8 -8`} />
            <text
              x={dx - 9}
              y={(a + b) / 2 + 5}
              textAnchor="end"
              fill="var(--color-ink)"
              stroke="none"
              className="halo"
            >
              {tidy(mm - (up[i] ?? 0))}
            </text>
          </g>
        );
      })}
    </g>
  );
}
