/** What is wrong with an outline: marked where it is, and listed with what mends it. */
import type { OutlineFault } from "../api/client";
import { Words } from "../ui/choices";
import { useSentence } from "../window/job";
import type { Spot } from "./frame";

/** More than these are not reported at once. */
const TOLD = 3;

/** A red ring round every place at fault, with a mark beside it. */
export function FaultMarks({ faults, at }: { faults: OutlineFault[]; at: (spot: Spot) => Spot }) {
  return (
    <g pointerEvents="none">
      {faults.flatMap((fault, i) =>
        fault.places.map((place, k) => {
          const [x, y] = at(place as Spot);
          return (
            <g key={`${i} ${k}`}>
              <circle cx={x} cy={y} r={9} fill="none" stroke="var(--color-red)" strokeWidth={1.8} />
              {k === 0 && (
                <text x={x + 12} y={y - 9} fontSize={14} className="halo fill-red font-semibold">
                  !
                </text>
              )}
            </g>
          );
        }),
      )}
    </g>
  );
}

export function FaultsTold({
  faults,
  mend,
}: {
  faults: OutlineFault[];
  mend: (outline: NonNullable<OutlineFault["mended"]>) => void;
}) {
  const sentence = useSentence();
  return (
    <ul aria-label="What is wrong" className="grid gap-1">
      {faults.slice(0, TOLD).map((fault, i) => (
        <li key={i} className="flex items-baseline gap-2 border-red border-l-[3px] bg-red-wash px-2.5 py-1 text-sm">
          <b className="text-red">!</b>
          <span>
            {sentence(fault.words)}{" "}
            {fault.mended && <Words onClick={() => fault.mended && mend(fault.mended)}>{fault.action}</Words>}
          </span>
        </li>
      ))}
      {faults.length > TOLD && <li className="text-pencil text-sm">and {faults.length - TOLD} more</li>}
    </ul>
  );
}
