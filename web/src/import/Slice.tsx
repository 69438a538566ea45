/** Which heights of a drawing are looked at: all of them over one another, or a slice. What is added is not changed by it. */
import type { LinesFound } from "../api/client";
import { Words } from "../ui/choices";
import { LengthField } from "../ui/fields";
import { count } from "../ui/figures";

type Found = LinesFound["lines"][number];

/** The heights from which and to which a drawing is seen, mm. */
export type Heights = [number, number];

/** The lines that reach into a slice. */
export function within(lines: Found[], slice: Heights | null): Found[] {
  if (!slice) return lines;
  return lines.filter(({ heights: [low, high] }) => (high ?? 0) >= slice[0] - 0.01 && (low ?? 0) <= slice[1] + 0.01);
}

export function SliceChoice({
  lines,
  slice,
  choose,
}: {
  lines: Found[];
  slice: Heights | null;
  choose: (slice: Heights | null) => void;
}) {
  const low = lines.reduce((least, line) => Math.min(least, line.heights[0] ?? 0), Number.POSITIVE_INFINITY);
  const high = lines.reduce((most, line) => Math.max(most, line.heights[1] ?? 0), Number.NEGATIVE_INFINITY);
  if (!slice && !(high - low > 1)) return null;
  const hidden = lines.length - within(lines, slice).length;
  return (
    <div className="flex flex-col items-end gap-1 rounded-[3px] bg-paper/90 px-2 py-1 text-sm">
      {slice ? (
        <>
          <LengthField label="Seen from height" mm={slice[0]} take={async (mm) => settled(choose, [mm, slice[1]])} />
          <LengthField label="to height" mm={slice[1]} take={async (mm) => settled(choose, [slice[0], mm])} />
          <span className="flex gap-3">
            {hidden > 0 && <span className="text-pencil">{count(hidden, "line")} out of sight</span>}
            <Words onClick={() => choose(null)}>All heights</Words>
          </span>
        </>
      ) : (
        <Words onClick={() => choose([low, high])}>A slice of its heights</Words>
      )}
    </div>
  );
}

/** Take a slice; one that is upside down is turned over. */
function settled(choose: (slice: Heights) => void, [from, to]: Heights): null {
  choose(from <= to ? [from, to] : [to, from]);
  return null;
}
