/** The drawing as joining sees it: lines taken in or left out, gaps closed, places where edges part. */
import { useMemo } from "react";
import type { DrawingRead, LinesFound } from "../api/client";
import { boxOf, fitted, toSheet } from "../sheet/frame";
import { useSize } from "../ui/fields";

interface PreviewProps {
  drawing: DrawingRead;
  found: LinesFound | undefined;
  lines: LinesFound["lines"];
  left: ReadonlySet<string>;
  keyOf: (line: LinesFound["lines"][number]) => string;
  pointed: number | null;
  point: (line: number | null) => void;
  toggle: (line: LinesFound["lines"][number], on: boolean) => void;
  busy: boolean;
}

export function Preview({ drawing, found, lines, left, keyOf, pointed, point, toggle, busy }: PreviewProps) {
  const [ref, { width, height }] = useSize<SVGSVGElement>();
  const box = useMemo(() => boxOf(lines.flatMap((line) => line.points as [number, number][])), [lines]);
  const frame = fitted(box, width || 800, height || 500, 60);
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  const d = (line: LinesFound["lines"][number]) =>
    `M${line.points.map((one) => one.join(" ")).join("L")}${line.closed ? "Z" : ""}`;
  // Thousands of lines are drawn as two paths; a few are drawn one by one, so that each can be clicked.
  const many = lines.length > 1500;
  return (
    <div className="relative min-w-0">
      <svg ref={ref} className="size-full" role="img" aria-label={`Drawing ${drawing.file}`}>
        <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`} fill="none">
          {many ? (
            <>
              <path
                d={lines
                  .filter((line) => left.has(keyOf(line)))
                  .map(d)
                  .join("")}
                stroke="#b9bdb5"
                vectorEffect="non-scaling-stroke"
              />
              <path
                d={lines
                  .filter((line) => !left.has(keyOf(line)))
                  .map(d)
                  .join("")}
                stroke="#2a68a8"
                vectorEffect="non-scaling-stroke"
              />
            </>
          ) : (
            lines.map((line) => {
              const on = !left.has(keyOf(line));
              return (
                <g
                  key={line.number}
                  className="cursor-pointer"
                  onClick={() => toggle(line, !on)}
                  onPointerEnter={() => point(line.number)}
                  onPointerLeave={() => point(null)}
                >
                  <path
                    d={d(line)}
                    stroke="transparent"
                    strokeWidth={12}
                    vectorEffect="non-scaling-stroke"
                    pointerEvents="stroke"
                  />
                  <path
                    d={d(line)}
                    stroke={on ? (pointed === line.number ? "#174a80" : "#2a68a8") : "#a9aea6"}
                    strokeWidth={pointed === line.number ? 3.4 : on ? 2 : 1.2}
                    strokeDasharray={on ? undefined : "5 4"}
                    vectorEffect="non-scaling-stroke"
                  />
                </g>
              );
            })
          )}
        </g>
        {lines.length < 400 &&
          lines.flatMap((line) =>
            line.points.length < 400
              ? (line.points as [number, number][]).map((place, i) => {
                  const [x, y] = toSheet(frame, width, height, place[0], place[1]);
                  return (
                    <rect
                      key={`${line.number}-${i}`}
                      x={x - 2.2}
                      y={y - 2.2}
                      width={4.4}
                      height={4.4}
                      fill="#fff"
                      stroke={left.has(keyOf(line)) ? "#a9aea6" : "#2a68a8"}
                      pointerEvents="none"
                    />
                  );
                })
              : [],
          )}
        {found?.gaps.slice(0, 500).map((gap, i) => {
          const [x, y] = toSheet(frame, width, height, gap[0] as number, gap[1] as number);
          return (
            <circle key={i} cx={x} cy={y} r={7} fill="none" stroke="#b97a14" strokeWidth={1.5}>
              <title>a gap of {(gap[2] as number).toFixed(2)} mm, closed</title>
            </circle>
          );
        })}
        {found?.junctions.slice(0, 500).map((place, i) => {
          const [x, y] = toSheet(frame, width, height, place[0] as number, place[1] as number);
          return <path key={i} d={`M${x} ${y - 6}l6 6l-6 6l-6 -6z`} fill="none" stroke="#ad3427" strokeWidth={1.4} />;
        })}
      </svg>
      <p className="absolute top-3 left-4 max-w-[70%] text-pencil text-sm">
        Click a line to leave it out or take it in. <span className="text-wax-deep">○ gap closed</span>
        {found && found.junctions.length > 0 && <span className="text-red"> ◇ edges part here</span>}
      </p>
      {busy && (
        <p role="status" className="absolute top-3 right-4 text-pencil text-sm">
          Joining …
        </p>
      )}
    </div>
  );
}
