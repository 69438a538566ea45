/** The marks of what is held of an outline, each at its place; a click lets one go. */
import type { Section, Sentence } from "../api/client";
import { useChanges, useSentence } from "../window/job";
import { type DeskFrame, type Drawn, onDesk, type Spot } from "./frame";

const SIGNS: Record<string, string> = {
  level: "↔",
  upright: "↕",
  square: "∟",
  parallel: "∥",
  equal: "=",
  tangent: "⌒",
  midway: "½",
  hidden: "▨",
};

type Held = Drawn["held"][number]["held"];

/** Where the marks of something held stand, in the drawing. */
function spots(drawn: Drawn, held: Held): Spot[] {
  const point = (place: readonly number[]) => drawn.loops[place[0] ?? 0]?.points[place[1] ?? 0]?.at as Spot | undefined;
  const edge = (place: readonly number[]) =>
    drawn.loops[place[0] ?? 0]?.edges[place[1] ?? 0]?.middle as Spot | undefined;
  const found = (() => {
    switch (held.kind) {
      case "level":
      case "upright": {
        const [a, b] = [point(held.a), point(held.b)];
        return a && b ? [[(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as Spot] : [];
      }
      case "square":
      case "parallel":
      case "equal":
        return [edge(held.a), edge(held.b)];
      case "hidden":
        return [edge(held.edge)];
      case "tangent":
      case "midway":
        return [point(held.point)];
      default:
        return [];
    }
  })();
  return found.filter((one) => one !== undefined);
}

export function HeldMarks({ section, frame, drawn }: { section: Section; frame: DeskFrame; drawn: Drawn }) {
  const { edit } = useChanges();
  const sentence = useSentence();
  // Marks that would lie on one another stand side by side.
  const taken = new Map<string, number>();
  const middle: Spot = [
    frame.left + (section.width * frame.scale) / 2,
    frame.foot - (section.height * frame.scale) / 2,
  ];
  return (
    <g>
      {drawn.held.map(({ held: one, words: said }, number) => {
        if (one.kind === "symmetric") return <Axis key={number} frame={frame} section={section} axis={one.axis} />;
        return spots(drawn, one).map((spot, k) => {
          const [x, y] = onDesk(frame, spot);
          const key = `${Math.round(x / 12)} ${Math.round(y / 12)}`;
          const before = taken.get(key) ?? 0;
          taken.set(key, before + 1);
          // Inside the section, out of the way of the figures.
          const far = Math.hypot(middle[0] - x, middle[1] - y) || 1;
          const [mx, my] = [x + ((middle[0] - x) / far) * 16 + before * 17, y + ((middle[1] - y) / far) * 16];
          const words = sentence(said as Sentence);
          const letGo = () => void edit([{ kind: "let_go", section: section.id, number }]);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a drawing has no buttons of its own
            <g
              key={`${number} ${k}`}
              role="button"
              tabIndex={0}
              aria-label={`Let go of: ${words}`}
              className="cursor-pointer"
              onPointerDown={(event) => event.stopPropagation()}
              onClick={letGo}
              onKeyDown={(event) => event.key === "Enter" && letGo()}
            >
              <rect
                x={mx - 8}
                y={my - 8}
                width={16}
                height={16}
                rx={3}
                fill="var(--color-wax-wash)"
                stroke="var(--color-wax)"
              />
              <text aria-hidden x={mx} y={my + 4.5} textAnchor="middle" fontSize={12.5} className="fill-wax-deep">
                {SIGNS[one.kind] ?? "▪"}
              </text>
              <title>{words}: click to let go of it</title>
            </g>
          );
        });
      })}
    </g>
  );
}

/** The axis about which the whole is held symmetric. */
function Axis({ frame, section, axis }: { frame: DeskFrame; section: Section; axis: "upright" | "level" }) {
  const [x0, x1] = [frame.left, frame.left + section.width * frame.scale];
  const [y0, y1] = [frame.foot, frame.foot - section.height * frame.scale];
  const d = axis === "upright" ? `M${(x0 + x1) / 2} ${y0 + 26}V${y1 - 22}` : `M${x0 - 26} ${(y0 + y1) / 2}H${x1 + 26}`;
  return <path d={d} stroke="var(--color-wax)" strokeWidth={1.6} strokeDasharray="14 4 3 4" pointerEvents="none" />;
}
