/** What can be taken hold of on an outline: its edges, its points, and what shapes the edges at those that are picked. */
import { count } from "../ui/figures";
import type { Part } from "../window/store";
import { type DeskFrame, type Drawn, edgePath, onDesk, type Spot, samePart } from "./frame";

/** More points than this in one picture could not be distinguished. */
const MOST = 400;

export function Handles({ frame, drawn, parts }: { frame: DeskFrame; drawn: Drawn; parts: Part[] }) {
  const many = drawn.loops.reduce((sum, loop) => sum + loop.points.length, 0);
  if (many > MOST)
    return (
      <text x={frame.left} y={frame.foot + 40} fontSize={13} className="fill-pencil">
        {count(many, "point")}: too many to be taken hold of
      </text>
    );
  const on = (part: Part) => parts.some((one) => samePart(one, part));
  return (
    <g>
      {drawn.loops.map((loop, l) =>
        loop.edges.map((_, i) => {
          const part: Part = { kind: "edge", loop: l, index: i };
          const d = edgePath(frame, drawn, part);
          return (
            <g key={`${l} ${i}`}>
              {on(part) && <path d={d} fill="none" stroke="var(--color-chalk)" strokeWidth={3.5} />}
              <path
                d={d}
                fill="none"
                stroke="transparent"
                strokeWidth={11}
                data-edge={`${l} ${i}`}
                className="cursor-pointer"
              >
                <title>Edge {i + 1}</title>
              </path>
            </g>
          );
        }),
      )}
      <Shapes frame={frame} drawn={drawn} parts={parts} />
      {drawn.loops.map((loop, l) =>
        loop.points.map((point, i) => {
          const [x, y] = onDesk(frame, point.at as Spot);
          const picked = on({ kind: "point", loop: l, index: i });
          const half = picked ? 5 : 4;
          return (
            <rect
              key={`${l} ${i}`}
              x={x - half}
              y={y - half}
              width={2 * half}
              height={2 * half}
              // Smooth points are round, as their outline is.
              rx={point.smooth ? half : 0}
              fill={picked ? "var(--color-chalk)" : "var(--color-white)"}
              stroke="var(--color-chalk)"
              strokeWidth={1.5}
              data-point={`${l} ${i}`}
              className="cursor-move"
            >
              <title>
                Point {i + 1}
                {point.smooth ? ", smooth" : ""}
              </title>
            </rect>
          );
        }),
      )}
    </g>
  );
}

/** The handles of curves, where arcs pass, and the middles of straights, of edges that are picked or meet at a picked point. */
function Shapes({ frame, drawn, parts }: { frame: DeskFrame; drawn: Drawn; parts: Part[] }) {
  return drawn.loops.map((loop, l) =>
    loop.edges.map((edge, i) => {
      const next = (i + 1) % loop.points.length;
      const near = parts.some(
        (part) => part.loop === l && (part.index === i || (part.kind === "point" && part.index === next)),
      );
      if (!near) return null;
      const begin = onDesk(frame, loop.points[i]?.at as Spot);
      const end = onDesk(frame, loop.points[next]?.at as Spot);
      const by = edge.by.map((place) => onDesk(frame, place as Spot));
      const [mx, my] = onDesk(frame, edge.middle as Spot);
      return (
        <g key={`${l} ${i}`} stroke="var(--color-chalk)">
          {edge.kind === "curve" && (
            <path
              d={`M${begin}L${by[0]}M${end}L${by[1]}`}
              fill="none"
              strokeWidth={0.9}
              strokeDasharray="2 3"
              pointerEvents="none"
            />
          )}
          {by.map(([x, y], k) => (
            <path
              key={k}
              d={`M${x} ${y - 5.5}l5.5 5.5-5.5 5.5-5.5-5.5z`}
              fill="var(--color-white)"
              strokeWidth={1.5}
              data-shape={`${l} ${i} ${k}`}
              className="cursor-move"
            >
              <title>
                {edge.kind === "curve"
                  ? "Drag this handle of the curve; hold Alt to part it from its neighbour"
                  : "Drag where the arc passes"}
              </title>
            </path>
          ))}
          {edge.kind !== "arc" && Math.hypot(end[0] - begin[0], end[1] - begin[1]) > 30 && (
            <circle
              cx={mx}
              cy={my}
              r={3.8}
              fill="var(--color-paper)"
              strokeDasharray="2 1.5"
              data-insert={`${l} ${i}`}
              className="cursor-copy"
            >
              <title>Drag to put a new point into edge {i + 1}</title>
            </circle>
          )}
        </g>
      );
    }),
  );
}
