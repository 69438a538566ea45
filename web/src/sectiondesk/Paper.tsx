/** The squared paper of the desk, its lines counted from the back foot. */
import { formatLength } from "../ui/figures";
import { useUnits } from "../window/job";
import { type DeskFrame, squares } from "./frame";

export function Paper({ frame, height }: { frame: DeskFrame; height: number }) {
  const units = useUnits();
  const step = squares(frame.scale);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  return (
    <>
      {[1, 10].map((times) => {
        const size = step * times * frame.scale;
        return (
          <pattern
            key={times}
            id={`squared${times}`}
            width={size}
            height={size}
            patternUnits="userSpaceOnUse"
            x={frame.left}
            y={frame.foot}
          >
            <path
              d={`M0 0H${size}M0 0V${size}`}
              stroke={`var(--color-grid${times > 1 ? "-strong" : ""})`}
              fill="none"
            />
          </pattern>
        );
      })}
      {[1, 10].map((times) => (
        <rect key={times} width="100%" height="100%" fill={`url(#squared${times})`} />
      ))}
      <text x={18} y={height - 16} fontSize={13} className="figure" fill="var(--color-pencil)">
        squared {formatLength(step, fine).replace(/\.0$/, "")} · seen along the line, right is to the right of travel
      </text>
    </>
  );
}
