/** What the items of a row keep clear of: paths and beds, the ground of closed lines, other rows' items, corners. */
import type { Problem, Row } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Pick, Words } from "../../ui/choices";
import { LengthField, Setting } from "../../ui/fields";
import { formatLength } from "../../ui/figures";
import { useShown, useUnits } from "../../window/job";
import { lineById, rowById } from "../../window/things";

type Clear = NonNullable<Row["clear_of"]>[number];

export function ClearQuestion({ row, change }: { row: Row; change: (changes: object) => Promise<Problem | null> }) {
  const shown = useShown();
  const units = useUnits();
  const clear = row.clear_of ?? [];
  const corner = row.corner_clearance ?? 0;
  const put = (clear_of: Clear[]) => change({ clear_of });
  const named = (id: string) => (lineById(shown, id) ?? rowById(shown, id))?.name ?? id;
  const taken = new Set([row.id, ...(row.filling ? [row.line] : []), ...clear.map((one) => one.of)]);
  const others = [...(shown.job.lines ?? []), ...(shown.job.rows ?? [])].filter((one) => !taken.has(one.id));
  const kindOf = (id: string) => {
    const line = lineById(shown, id);
    if (!line) return "its items";
    return line.strip ? "the strip along it" : line.closed ? "the ground within it" : "the line itself";
  };
  const answer = [
    ...clear.map((one) => `${named(one.of)}${one.by ? `, by ${formatLength(one.by, units)}` : ""}`),
    !row.filling && corner > 0 && `corners, by ${formatLength(corner, units)}`,
  ]
    .filter(Boolean)
    .join("; ");
  return (
    <Asked question="What does it keep clear of?" answer={answer || "nothing"}>
      <ul aria-label="Kept clear of">
        {clear.map((one, number) => (
          <li key={one.of} className="border-rule border-t py-1 text-sm">
            <div className="flex items-baseline justify-between gap-2">
              <span className="min-w-0">
                {named(one.of)} <span className="text-pencil">· {kindOf(one.of)}</span>
              </span>
              <Words
                label={`Let it come near ${named(one.of)}`}
                onClick={() => void put(clear.filter((_, i) => i !== number))}
              >
                remove
              </Words>
            </div>
            <LengthField
              label="By"
              mm={one.by ?? 0}
              take={(by) => put(clear.map((was, i) => (i === number ? { ...was, by } : was)))}
            />
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <Setting label="Also of">
          <Pick
            label="Keep clear of"
            value={null}
            various="choose a line or a row"
            ways={others.map((one): [string, string] => [one.id, one.name])}
            choose={(of) => void put([...clear, { of, by: 0 }])}
          />
        </Setting>
      )}
      {!row.filling && (
        <LengthField
          label="Corners, by"
          mm={corner}
          bound={{ thing: row.id, field: "corner_clearance" }}
          take={(corner_clearance) => change({ corner_clearance })}
        />
      )}
      <p className="mt-1 text-pencil text-sm">
        {row.filling
          ? "From the middle of each item, on plan."
          : "Along the line an item ends where the ground that is kept clear begins."}
      </p>
    </Asked>
  );
}
