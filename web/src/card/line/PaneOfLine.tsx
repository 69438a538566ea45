/** The pane in a closed line: what it is made of, and how large it is. */
import type { Edit, Line, LineFigures } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { areaUnit, formatLength, formatPainted } from "../../ui/figures";
import { useChanges, useUnits } from "../../window/job";
import { PaneFields } from "./PaneFields";

export function PaneOfLine({ line, figures }: { line: Line; figures: LineFigures["pane"] | undefined }) {
  const units = useUnits();
  const { edit } = useChanges();
  const put = (pane: object | null) => edit([{ kind: "set_line", line: line.id, changes: { pane } } as Edit]);
  const sides = figures?.sides.map((side) => formatLength(side, units)).join(" × ");
  const size = figures && `${sides}, ${formatPainted(figures.area, units)} ${areaUnit(units)}`;
  return (
    <Asked question="Is there a pane in it?" answer={line.pane && size ? `${line.pane.of}, ${size}` : "no"}>
      <PaneFields pane={line.pane ?? null} put={put} />
      {size && (
        <p role="status" aria-label="Size of the pane" className="figure text-pencil text-sm">
          {size}
        </p>
      )}
    </Asked>
  );
}
