/** A path or a bed along a line: its widths, its joints, and an edging on either side. */
import { useState } from "react";
import type { Line } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Button, Pick, Tick } from "../../ui/choices";
import { LengthField, Setting } from "../../ui/fields";
import { areaUnit, count, formatLength, formatPainted } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";

export function StripOfLine({
  line,
  area,
  joints,
}: {
  line: Line;
  area: number | undefined;
  joints: number | undefined;
}) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const [section, setSection] = useState<string | null>(null);
  const { strip } = line;
  const change = (part: object | null) => edit([{ kind: "set_line", line: line.id, changes: { strip: part } }]);
  const sections = shown.job.sections ?? [];
  const chosen = section ?? sections[0]?.id ?? null;
  const edged = (shown.job.lines ?? []).some((one) => one.made?.kind === "strip_edge" && one.made.line === line.id);
  const length = (mm: number) => formatLength(mm, units);
  return (
    <Asked
      question="Is it a path or a bed?"
      answer={
        strip
          ? `${length(strip.left + strip.right)} wide, ${formatPainted(area ?? 0, units)} ${areaUnit(units)}${joints ? `, ${count(joints, "joint")}` : ""}`
          : "no"
      }
    >
      <Tick
        label="A strip lies along it, which fields and rows can keep clear of"
        checked={Boolean(strip)}
        set={(on) => change(on ? { left: 600, right: 600 } : null)}
      />
      {strip && (
        <>
          <LengthField
            label="To the left"
            mm={strip.left}
            bound={{ thing: line.id, field: "strip.left" }}
            take={(left) => change({ left })}
          />
          <LengthField
            label="To the right"
            mm={strip.right}
            bound={{ thing: line.id, field: "strip.right" }}
            take={(right) => change({ right })}
          />
          <Tick
            label="Joints across it, in equal bays"
            checked={strip.joints != null}
            set={(on) => change({ joints: on ? 3000 : null })}
          />
          {strip.joints != null && (
            <LengthField
              label="No wider apart than"
              mm={strip.joints}
              bound={{ thing: line.id, field: "strip.joints" }}
              take={(joints) => change({ joints })}
            />
          )}
          {!edged && chosen && (
            <Setting label="Edging">
              <Pick
                label="Section of the edging"
                value={chosen}
                ways={sections.map((one): [string, string] => [one.id, one.name])}
                choose={setSection}
              />
              <Button onClick={() => void edit([{ kind: "edge_strip", line: line.id, section: chosen }])}>
                Edge both sides
              </Button>
            </Setting>
          )}
        </>
      )}
    </Asked>
  );
}
