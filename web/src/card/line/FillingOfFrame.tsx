/** What fills the bays of a frame: glass, mesh or boards, and how its edges lie in the members around it. */
import type { Edit, Line } from "../../api/client";
import { Choice } from "../../ui/choices";
import { LengthField } from "../../ui/fields";
import { areaUnit, count, formatPainted } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";

export type Filling = Extract<NonNullable<Line["made"]>, { kind: "frame_pane" }>["filling"];

const USUAL = { glass: 8, mesh: 4, boards: 18 } as const;

export function FillingOfFrame({ line }: { line: Line }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const panes = (shown.job.lines ?? []).filter((one) => one.made?.kind === "frame_pane" && one.made.line === line.id);
  const made = panes[0]?.made;
  const filling = made?.kind === "frame_pane" ? made.filling : null;
  const fill = (now: object | null) => edit([{ kind: "fill_frame", line: line.id, filling: now } as Edit]);
  const change = (part: Partial<Filling>) => fill({ ...filling, ...part });
  const ids = new Set(panes.map((pane) => pane.id));
  const figures = shown.lines.filter((one) => ids.has(one.id)).flatMap((one) => (one.pane ? [one.pane] : []));
  const area = figures.reduce((sum, pane) => sum + pane.area, 0);
  const boards = figures.reduce((sum, pane) => sum + pane.parts.length, 0);
  const length = (
    field: "thickness" | "reach" | "board" | "gap",
    label: string,
    usual: number,
    measured: Filling | null = filling,
  ) => <LengthField label={label} mm={measured?.[field] ?? usual} take={(mm) => change({ [field]: mm })} />;
  return (
    <div className="mt-2">
      <Choice
        label="What fills it"
        value={filling?.of ?? "none"}
        ways={[
          ["none", "Nothing"],
          ["glass", "Glass"],
          ["mesh", "Mesh"],
          ["boards", "Boards"],
        ]}
        choose={(of) => void (of === "none" ? fill(null) : change({ of, thickness: USUAL[of] }))}
      />
      {filling && (
        <div className="mt-1.5">
          {length("thickness", "Thickness", USUAL.glass)}
          {length("reach", "Reach into the members", 0)}
          {filling.of === "boards" && (
            <>
              <Choice
                label="How boards lie"
                value={filling.way ?? "upright"}
                ways={[
                  ["upright", "Upright"],
                  ["level", "Level"],
                ]}
                choose={(way) => void change({ way })}
              />
              {length("board", "Width of a board", 120)}
              {length("gap", "Gap between boards", 5)}
            </>
          )}
          <p role="status" aria-label="What fills a frame" className="text-pencil text-sm">
            {count(panes.length, "pane")}
            {filling.of === "boards" && `, ${count(boards, "board")}`}, {formatPainted(area, units)} {areaUnit(units)}{" "}
            in each frame
          </p>
        </div>
      )}
    </div>
  );
}
