/** The joints of a run on the rod: dragged along it, or moved by the arrow keys; the pieces on both sides tell their lengths. */
import { useRef } from "react";
import type { Edit, Run, RunFigures } from "../api/client";
import { formatLength } from "../ui/figures";
import { useChanges, useUnits } from "../window/job";
import { FOOT, type Scale, TOP } from "./measure";

/** How near one another two joints may be brought, mm. */
const APART = 1;

interface Drag {
  index: number;
  /** All of them as they were when one was taken hold of. */
  joints: number[];
}

export function JointsOnRod(props: {
  run: Run;
  figures: RunFigures;
  length: number;
  x: Scale;
  invert: (px: number) => number;
}) {
  const { run, figures, length, x, invert } = props;
  const units = useUnits();
  const { edit, preview } = useChanges();
  const drag = useRef<Drag | null>(null);
  const made = useRef<Edit | null>(null);
  const foot = FOOT - 24;
  if (!run.joints) return null;
  const moved = ({ index, joints }: Drag, place: number): Edit => {
    const [before, after] = [joints[index - 1] ?? 0, joints[index + 1] ?? length];
    const at = [...joints];
    at[index] = Math.min(Math.max(place, before + APART), after - APART);
    return { kind: "set_run", run: run.id, changes: { joints: { at } } };
  };
  const move = (event: React.PointerEvent<SVGElement>) => {
    if (!drag.current) return;
    event.stopPropagation();
    const left = event.currentTarget.ownerSVGElement?.getBoundingClientRect().left ?? 0;
    const step = event.altKey ? 1 : 10;
    made.current = moved(drag.current, Math.round(invert(event.clientX - left) / step) * step);
    preview([made.current]);
  };
  const up = (event: React.PointerEvent<SVGElement>) => {
    if (!drag.current) return;
    event.stopPropagation();
    const wanted = made.current;
    drag.current = null;
    made.current = null;
    if (wanted) void edit([wanted]).then((problem) => problem && preview(null));
  };
  const press = (index: number) => (event: React.KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const here = figures.joints[index] as number;
    void edit([moved({ index, joints: figures.joints }, here + by * (event.altKey ? 1 : 10))]);
  };
  const lean = run.joints.made === "scarf" ? 5 : 0;
  return (
    <g className="text-ink">
      {figures.joints.map((at, index) => {
        const place = x(at);
        return (
          <g
            key={index}
            role="slider"
            tabIndex={0}
            aria-label={`Joint ${index + 1}`}
            aria-valuenow={Math.round(at)}
            aria-valuetext={formatLength(at, units)}
            className="group/joint cursor-ew-resize outline-none"
            onKeyDown={press(index)}
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              drag.current = { index, joints: [...figures.joints] };
            }}
            onPointerMove={move}
            onPointerUp={up}
            onClick={(event) => event.stopPropagation()}
          >
            <rect x={place - 7} y={TOP} width={14} height={foot - TOP} fill="transparent" />
            <path
              d={`M${place + lean} ${TOP}L${place - lean} ${foot}`}
              stroke="currentColor"
              strokeWidth={1.2}
              className="group-hover/joint:stroke-chalk group-focus-visible/joint:stroke-[2.5] group-focus-visible/joint:stroke-chalk"
            />
            <path
              d={`M${place - 4} ${foot + 3}h8l-4 5z`}
              fill="var(--color-paper)"
              stroke="currentColor"
              className="group-hover/joint:stroke-chalk"
            />
            <title>{`Joint at ${formatLength(at, units)}: drag it along the run`}</title>
          </g>
        );
      })}
    </g>
  );
}
