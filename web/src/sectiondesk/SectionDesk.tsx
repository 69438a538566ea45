/** The section desk: the outline of the selected section at its size, dimensioned, with its datum and its bed. */

import type { Section } from "../api/client";
import { formatLength } from "../ui/figures";
import { useSize } from "../ui/useSize";
import { useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { sectionById } from "../window/things";
import { useFacts } from "./facts";

export function SectionDesk() {
  const shown = useShown();
  const units = useUnits();
  const selected = useWindow((state) => state.selected);
  const [ref, size] = useSize<SVGSVGElement>();
  const section = sectionById(shown, selected[0]);
  const figures = shown.sections.find((one) => one.id === section?.id);
  if (!section || !figures) return <p className="p-6 text-pencil">Select a section in the job sheet.</p>;
  const { width, height } = size;
  const scale = Math.max(0.01, Math.min((width - 220) / section.width, (height - 150) / section.height));
  const left = (width - section.width * scale) / 2 + 20;
  const foot = (height + section.height * scale) / 2 + 12;
  const at = (x: number, y: number): [number, number] => [left + x * scale, foot - y * scale];
  const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((one) => one * scale > 9) ?? 1000;
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
    <svg ref={ref} className="size-full" role="img" aria-label={`Section ${section.name}`}>
      <defs>
        <pattern id="squared" width={step * scale} height={step * scale} patternUnits="userSpaceOnUse" x={x0} y={y0}>
          <path d={`M0 0H${step * scale}M0 0V${step * scale}`} stroke="var(--color-grid)" fill="none" />
        </pattern>
        <pattern
          id="squared10"
          width={step * scale * 10}
          height={step * scale * 10}
          patternUnits="userSpaceOnUse"
          x={x0}
          y={y0}
        >
          <path
            d={`M0 0H${step * scale * 10}M0 0V${step * scale * 10}`}
            stroke="var(--color-grid-strong)"
            fill="none"
          />
        </pattern>
      </defs>
      <rect width="100%" height="100%" fill="url(#squared)" />
      <rect width="100%" height="100%" fill="url(#squared10)" />
      <g transform={`translate(${x0} ${y0}) scale(${scale} ${-scale})`}>
        <path
          d={figures.path}
          fill="var(--color-timber)"
          stroke="var(--color-ink)"
          strokeWidth={2}
          strokeLinejoin="round"
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
      {bed && <path d={bedPath} stroke="var(--color-pencil)" strokeWidth={1.4} strokeDasharray="7 4" />}
      <g className="figure text-pencil" stroke="currentColor" fontSize={15}>
        <path d={`M${x0} ${y1 - 34}H${x1}M${x0 - 5} ${y1 - 29}l10 -10M${x1 - 5} ${y1 - 29}l10 -10`} fill="none" />
        <path d={`M${x0 - 40} ${y0}V${y1}M${x0 - 45} ${y0 + 5}l10 -10M${x0 - 45} ${y1 + 5}l10 -10`} fill="none" />
        <text x={(x0 + x1) / 2} y={y1 - 42} textAnchor="middle" fill="var(--color-ink)" stroke="none">
          {tidy(section.width)}
        </text>
        <text
          transform={`translate(${x0 - 48} ${(y0 + y1) / 2}) rotate(-90)`}
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
      <text x={dx + 14} y={dy + 16} fontSize={13} className="halo fill-wax-deep">
        datum
      </text>
      <text x={18} y={height - 16} fontSize={13} className="figure" fill="var(--color-pencil)">
        squared {formatLength(step, units)} · seen along the line, right is to the right of travel
      </text>
    </svg>
  );
}

/** The centroid with the principal axes through it. */
function Axes({ section, at }: { section: Section; at: (x: number, y: number) => [number, number] }) {
  const { data: facts } = useFacts(section);
  if (!facts) return null;
  const [x, y] = facts.centroid;
  const [cx, cy] = at(x, y);
  const turn = (facts.principal_angle * Math.PI) / 180;
  const size = 0.62 * Math.hypot(section.width, section.height);
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
      <circle cx={cx} cy={cy} r={3.5} fill="var(--color-paper)" stroke="var(--color-pencil)" strokeWidth={1.2} />
      <text x={cx + 9} y={cy - 8} fontSize={13} className="halo fill-pencil">
        centroid
      </text>
    </g>
  );
}
