import type { LinesFound, Units } from "../api/client";
import { count, fieldLength, formatLength } from "../ui/figures";
import { useUnits } from "../window/job";

/** At what height a line lies, where that is not nought. */
export function heightWords([low, high]: readonly [number, number], units: Units): string {
  const [from, to] = [formatLength(low, units), formatLength(high, units)];
  if (Math.abs(low) < 0.5 && Math.abs(high) < 0.5) return "";
  return from === to ? `at ${from} · ` : `${from} to ${to} · `;
}

export function WhatJoiningDid({ found, levelled }: { found: LinesFound; levelled: boolean }) {
  const units = useUnits();
  const widest = Math.max(0, ...found.gaps.map((gap) => gap[2] ?? 0));
  const parts = [
    `${count(found.gaps.length, "gap")} closed${found.gaps.length ? `, of ${fieldLength(Number(widest.toFixed(3)), units)} at most` : ""}`,
  ];
  if (found.doubled) parts.push(`${found.doubled} doubled ${found.doubled === 1 ? "edge" : "edges"} dropped`);
  if (found.dropped_points) parts.push(`${count(found.dropped_points, "point")} on straights dropped`);
  if (found.overlaps) parts.push(`${count(found.overlaps, "overlapping edge")} made one`);
  if (found.tiny) parts.push(`${count(found.tiny, "edge")} of no length dropped`);
  return (
    <>
      <p className="text-pencil text-sm">{parts.join(" · ")}</p>
      {found.apart > 0 && !levelled && (
        <p className="mt-1 text-sm text-wax-deep">
          {count(found.apart, "end")} meet{found.apart === 1 && "s"} another on plan but lie
          {found.apart === 1 && "s"} at another height: bring all to one height to join them.
        </p>
      )}
    </>
  );
}
