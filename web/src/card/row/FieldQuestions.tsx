/** What came out of a field, and how its ground is filled: on a grid or by chance, with sizes within limits. */
import type { Row } from "../../api/client";
import { problemOf } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick, Tick, Words } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Setting } from "../../ui/fields";
import { areaOfUnit, areaUnit, formatAngle, formatLength, formatPainted } from "../../ui/figures";
import { useShown, useUnits } from "../../window/job";
import { lineById, sidesOf } from "../../window/things";
import { AlongOrWithin } from "./AlongOrWithin";
import { CameOut } from "./CameOut";
import type { RowQuestion } from "./question";

type Filling = NonNullable<Row["filling"]>;

export function FieldQuestions({ row, figures, change }: RowQuestion) {
  const shown = useShown();
  const units = useUnits();
  const filling = row.filling as Filling;
  const fill = (part: object) => change({ filling: part });
  const line = lineById(shown, row.line);
  const sides = line ? sidesOf(line) : [];
  const length = (mm: number) => formatLength(mm, units);
  const area = figures?.area ?? 0;
  const side = filling.kind === "grid" ? filling.side : null;
  const chosen = sides.find((one) => side && one.points.every((point) => side.includes(point)));
  const how =
    filling.kind === "chance"
      ? `by chance, no nearer than ${length(filling.apart ?? 0)}`
      : `${filling.staggered ? "staggered" : "square"} grid, ${length(filling.along ?? 0)} by ${length(filling.between ?? 0)}, ${
          chosen ? `along side ${chosen.number}` : `bearing ${formatAngle(filling.bearing ?? 0)}`
        }`;
  const { smallest = 1, largest = 1 } = filling;
  const percent = (share: number) => String(Number((share * 100).toFixed(3)));
  const share = (text: string, field: string) => {
    const value = Number(text.replace(",", ".").replace("%", ""));
    return value > 0 && value <= 1000
      ? fill({ [field]: value / 100 })
      : Promise.resolve(problemOf(new Error(`“${text}” is no share: type a percentage, such as 80.`)));
  };
  return (
    <>
      <CameOut
        items={figures?.count ?? 0}
        at={
          <>
            on{" "}
            <b className="figure">
              {formatPainted(area, units)} {areaUnit(units)}
            </b>
          </>
        }
      >
        {[
          ...(figures?.items ?? []).filter((item) => item.count > 0).map((item) => `${item.letter} × ${item.count}`),
          area > 0 && `${(((figures?.count ?? 0) * areaOfUnit(units)) / area).toFixed(2)} to a ${areaUnit(units)}`,
        ]
          .filter(Boolean)
          .join(" · ")}
      </CameOut>
      <Asked question="How is the ground filled?" answer={how}>
        <AlongOrWithin {...{ row, change }} />
        <Choice
          label="Filled"
          value={filling.kind}
          ways={[
            ["grid", "On a grid"],
            ["chance", "By chance"],
          ]}
          choose={(kind) => void fill({ kind })}
        />
        <div className="mt-1.5">
          {filling.kind === "chance" ? (
            <LengthField
              label="No nearer than"
              mm={filling.apart ?? 0}
              bound={{ thing: row.id, field: "filling.apart" }}
              take={(apart) => fill({ apart })}
            />
          ) : (
            <>
              <LengthField
                label="Along the rows"
                mm={filling.along ?? 0}
                bound={{ thing: row.id, field: "filling.along" }}
                take={(along) => fill({ along })}
              />
              <LengthField
                label="Between rows"
                mm={filling.between ?? 0}
                bound={{ thing: row.id, field: "filling.between" }}
                take={(between) => fill({ between })}
              />
              <Tick
                label="Staggered: every second row moved by half"
                checked={filling.staggered ?? false}
                set={(staggered) => fill({ staggered })}
              />
              <Setting label="Rows lie">
                <Pick
                  label="Rows lie"
                  value={chosen ? String(chosen.number) : ""}
                  ways={[
                    ["", "along a bearing"],
                    ...sides.map((one): [string, string] => [
                      String(one.number),
                      `along side ${one.number}, ${length(one.length)}`,
                    ]),
                  ]}
                  choose={(number) =>
                    void fill({ side: sides.find((one) => String(one.number) === number)?.points ?? null })
                  }
                />
              </Setting>
              {!chosen && (
                <AngleField
                  label="From north, clockwise"
                  degrees={filling.bearing ?? 0}
                  take={(bearing) => fill({ bearing })}
                />
              )}
            </>
          )}
          <LengthField
            label="Inset from the border"
            mm={filling.inset ?? 0}
            bound={{ thing: row.id, field: "filling.inset" }}
            take={(inset) => fill({ inset })}
          />
        </div>
        <p className="mt-1 text-pencil text-sm">Distances are from middle to middle, on plan.</p>
      </Asked>
      <Asked
        question="How do they differ?"
        answer={[
          smallest === 1 && largest === 1
            ? "all of one size"
            : `${percent(smallest)} to ${percent(largest)} % of their size`,
          (row.pattern?.others?.length ?? 0) > 0 && (filling.mixed === "turn" ? "kinds in turn" : "kinds by chance"),
        ]
          .filter(Boolean)
          .join("; ")}
      >
        <FigureField label="Smallest" unit="%" value={percent(smallest)} take={(text) => share(text, "smallest")} />
        <FigureField label="Largest" unit="%" value={percent(largest)} take={(text) => share(text, "largest")} />
        {(row.pattern?.others?.length ?? 0) > 0 && (
          <Choice
            label="Kinds follow"
            value={filling.mixed ?? "turn"}
            ways={[
              ["turn", "In turn"],
              ["chance", "By chance, in their shares"],
            ]}
            choose={(mixed) => void fill({ mixed })}
          />
        )}
        {(filling.kind === "chance" || smallest !== largest || filling.mixed === "chance") && (
          <p className="mt-1 text-sm">
            <span className="text-pencil">The draw is kept: it comes out the same again. </span>
            <Words onClick={() => void fill({ seed: (filling.seed ?? 0) + 1 })}>Draw again</Words>
          </p>
        )}
      </Asked>
    </>
  );
}
