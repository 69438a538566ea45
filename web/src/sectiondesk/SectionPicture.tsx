import type { Section, SectionFigures } from "../api/client";
import { formatLength } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { useLooked } from "./facts";
import { type DeskFrame, onDesk, type Spot } from "./frame";

/** The section that this one members with, in dashes, its datum on the same place. */
export function FirstOne({ section, figures, frame }: { section: Section; figures: SectionFigures; frame: DeskFrame }) {
  const shown = useShown();
  const first = shown.sections.find((one) => one.id === section.member?.of);
  if (!first || section.member?.size) return null;
  const [ox = 0, oy = 0] = figures.drawn.origin as Spot;
  const away = [0, 1].map((axis) => (figures.datum[axis] as number) - (first.datum[axis] as number));
  const [x, y] = onDesk(frame, [ox + (away[0] as number), oy + (away[1] as number)]);
  return (
    <g transform={`translate(${x} ${y}) scale(${frame.scale} ${-frame.scale})`} pointerEvents="none">
      <path
        d={first.path}
        fill="none"
        stroke="var(--color-pencil)"
        strokeWidth={1.2}
        strokeDasharray="5 4"
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

/** The section itself, with its size, its bed, its datum and its axes. */
export function Picture({ section, figures, frame }: { section: Section; figures: SectionFigures; frame: DeskFrame }) {
  const units = useUnits();
  const shown = useShown();
  const traced = shown.job.pictures?.some((picture) => picture.on === section.id && picture.shown !== false);
  const { origin } = figures.drawn;
  const [ox = 0, oy = 0] = origin as Spot;
  const at = (x: number, y: number) => onDesk(frame, [ox + x, oy + y]);
  const [dx, dy] = at(figures.datum[0] as number, figures.datum[1] as number);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const [x0, y0] = at(0, 0);
  const [x1, y1] = at(section.width, section.height);
  const tidy = (mm: number) => formatLength(mm, fine).replace(/\.0$/, "");
  const bed = section.bed?.kind === "side" ? section.bed.side : undefined;
  const bedPath = {
    back: `M${x0} ${y0}V${y1}`,
    front: `M${x1} ${y0}V${y1}`,
    foot: `M${x0} ${y0}H${x1}`,
    head: `M${x0} ${y1}H${x1}`,
  }[bed ?? "back"];
  return (
    <g pointerEvents="none">
      <g transform={`translate(${x0} ${y0}) scale(${frame.scale} ${-frame.scale})`}>
        <path
          d={figures.path}
          fill="var(--color-timber)"
          fillOpacity={traced ? 0.45 : 1}
          stroke="var(--color-ink)"
          strokeWidth={2}
          strokeLinejoin="round"
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
      {bed && <path d={bedPath} stroke="var(--color-pencil)" strokeWidth={1.4} strokeDasharray="7 4" />}
      <g className="figure text-pencil" stroke="currentColor" fontSize={15}>
        <path d={`M${x0} ${y1 - 48}H${x1}M${x0 - 5} ${y1 - 43}l10 -10M${x1 - 5} ${y1 - 43}l10 -10`} fill="none" />
        <path d={`M${x0 - 62} ${y0}V${y1}M${x0 - 67} ${y0 + 5}l10 -10M${x0 - 67} ${y1 + 5}l10 -10`} fill="none" />
        <text x={(x0 + x1) / 2} y={y1 - 56} textAnchor="middle" fill="var(--color-ink)" stroke="none">
          {tidy(section.width)}
        </text>
        <text
          transform={`translate(${x0 - 70} ${(y0 + y1) / 2}) rotate(-90)`}
          textAnchor="middle"
          fill="var(--color-ink)"
          stroke="none"
        >
          {tidy(section.height)}
        </text>
      </g>
      <Axes section={section} at={at} />
      <path d={`M${dx} ${dy}l8 14h-16z`} fill="var(--color-wax)" />
      <circle cx={dx} cy={dy} r={3} fill="var(--color-wax)" stroke="var(--color-white)" />
      <text x={dx - 13} y={dy + 15} textAnchor="end" fontSize={13} className="halo fill-wax-deep">
        datum
      </text>
    </g>
  );
}

/** The narrowest place: a short stroke between its two faces. */
export function Narrowest({ between }: { between: [number, number][] }) {
  const [a, b] = between as [[number, number], [number, number]];
  return (
    <g stroke="var(--color-pencil)" strokeWidth={1.1}>
      <path d={`M${a[0]} ${a[1]}L${b[0]} ${b[1]}`} strokeDasharray="2 2" />
      {[a, b].map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={2} fill="var(--color-pencil)" stroke="none" />
      ))}
      <title>The narrowest place</title>
    </g>
  );
}

/** What stretches, marked on the dimensions; and the outlines of the range, where they are shown. */
export function Grows({ figures, section, frame }: { figures: SectionFigures; section: Section; frame: DeskFrame }) {
  const ranged = useWindow((state) => state.ranged);
  const [ox = 0, oy = 0] = figures.drawn.origin as Spot;
  const at = (x: number, y: number) => onDesk(frame, [ox + x, oy + y]);
  const [x0, y0] = at(0, 0);
  const [, y1] = at(section.width, section.height);
  const [across, up] = figures.drawn.stretches;
  return (
    <g pointerEvents="none">
      {ranged &&
        figures.range.map((row) => (
          <g key={row.name}>
            <path
              transform={`translate(${x0} ${y0}) scale(${frame.scale} ${-frame.scale})`}
              d={row.path}
              fill="none"
              stroke="var(--color-chalk)"
              strokeWidth={1.2}
              strokeDasharray="6 3"
              vectorEffect="non-scaling-stroke"
            />
            <text
              x={at(row.width, 0)[0] + 6}
              y={at(0, row.height)[1] + 4}
              fontSize={12.5}
              className="halo figure fill-chalk-deep"
            >
              {row.name}
            </text>
          </g>
        ))}
      {across && <Stretch d={`M${at(across[0] ?? 0, 0)[0]} ${y1 - 48}H${at(across[1] ?? 0, 0)[0]}`} />}
      {up && <Stretch d={`M${x0 - 62} ${at(0, up[0] ?? 0)[1]}V${at(0, up[1] ?? 0)[1]}`} />}
    </g>
  );
}

function Stretch({ d }: { d: string }) {
  return (
    <path d={d} stroke="var(--color-wax)" strokeWidth={5} strokeDasharray="3 2.5" fill="none">
      <title>This part stretches; the rest keeps its shape</title>
    </path>
  );
}

/** The centroid with the principal axes through it. */
function Axes({ section, at }: { section: Section; at: (x: number, y: number) => [number, number] }) {
  const facts = useLooked(section).data?.facts;
  if (!facts) return null;
  const [x, y] = facts.centroid;
  const [cx, cy] = at(x, y);
  const turn = (facts.principal_angle * Math.PI) / 180;
  // Long enough to be read as axes, short enough to leave the figures alone.
  const size = 0.3 * Math.min(section.width, section.height);
  const axis = (angle: number) => {
    const [dx, dy] = [size * Math.cos(angle), size * Math.sin(angle)];
    const [x0, y0] = at(x - dx, y - dy);
    const [x1, y1] = at(x + dx, y + dy);
    return `M${x0} ${y0}L${x1} ${y1}`;
  };
  return (
    <g>
      <path
        d={`${axis(turn)}${axis(turn + Math.PI / 2)}`}
        stroke="var(--color-pencil)"
        strokeWidth={0.8}
        strokeDasharray="14 4 2 4"
      />
      <Narrowest between={[facts.narrowest[1], facts.narrowest[2]].map((one) => at(one[0], one[1]))} />
      <circle cx={cx} cy={cy} r={3.5} fill="var(--color-paper)" stroke="var(--color-pencil)" strokeWidth={1.2} />
      <text x={cx + 9} y={cy - 8} fontSize={13} className="halo fill-pencil">
        centroid
      </text>
    </g>
  );
}
