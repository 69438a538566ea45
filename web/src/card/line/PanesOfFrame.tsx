/** The panes in the bays of a frame: what they are made of, and how far their edges reach into the members around them. */
import type { Edit, Line } from "../../api/client";
import { LengthField } from "../../ui/fields";
import { areaUnit, count, formatPainted } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { PaneFields } from "./PaneFields";

export function PanesOfFrame({ line }: { line: Line }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const panes = (shown.job.lines ?? []).filter((one) => one.made?.kind === "frame_pane" && one.made.line === line.id);
  const [first] = panes;
  const reach = first?.made?.kind === "frame_pane" ? (first.made.reach ?? 0) : 0;
  const fill = (part: object) =>
    edit([{ kind: "fill_frame", line: line.id, pane: first?.pane ?? null, reach, ...part } as Edit]);
  const ids = new Set(panes.map((pane) => pane.id));
  const figures = shown.lines.filter((one) => ids.has(one.id)).flatMap((one) => (one.pane ? [one.pane] : []));
  const area = figures.reduce((sum, pane) => sum + pane.area, 0);
  const boards = figures.reduce((sum, pane) => sum + pane.parts.length, 0);
  return (
    <div className="mt-2">
      <PaneFields pane={first?.pane ?? null} put={(pane) => fill({ pane })} />
      {first?.pane && (
        <>
          <LengthField label="Reach into the members" mm={reach} take={(mm) => fill({ reach: mm })} />
          <p role="status" aria-label="What fills a frame" className="text-pencil text-sm">
            {count(panes.length, "pane")}
            {first.pane.of === "boards" && `, ${count(boards, "board")}`}, {formatPainted(area, units)}{" "}
            {areaUnit(units)} in each frame
          </p>
        </>
      )}
    </div>
  );
}
