/** Whether a row stands along its line or fills the ground within it; asked of closed lines. */
import type { Problem, Row } from "../../api/client";
import { Choice } from "../../ui/choices";
import { useShown } from "../../window/job";
import { lineById } from "../../window/things";

export function AlongOrWithin({ row, change }: { row: Row; change: (changes: object) => Promise<Problem | null> }) {
  const line = lineById(useShown(), row.line);
  if (!line?.closed && !row.filling) return null;
  return (
    <div className="mb-1.5">
      <Choice
        label="Where"
        value={row.filling ? "within" : "along"}
        ways={[
          ["along", "Along the line"],
          ["within", "On the ground within it"],
        ]}
        choose={(where) => void change({ filling: where === "within" ? { kind: "grid" } : null })}
      />
    </div>
  );
}
