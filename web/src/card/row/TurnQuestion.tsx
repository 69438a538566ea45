/** How the items of a row are turned, how they stand, and by how much each differs from the one before. */
import type { Problem, Row } from "../../api/client";
import { problemOf } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Words } from "../../ui/choices";
import { AngleField, FigureField } from "../../ui/fields";
import { formatAngle, formatLength } from "../../ui/figures";
import { useUnits } from "../../window/job";
import { useWindow } from "../../window/store";

type Turn = Row["turn"];

const FROM: [string, number, string][] = [
  ["first", 1, "The first"],
  ["middle", 0, "The middle"],
  ["last", -1, "The last"],
];

export function turnWords(turn: Turn): string {
  const base =
    turn.kind === "bearing"
      ? `bearing ${formatAngle(turn.bearing)}`
      : turn.kind === "toward"
        ? "toward a point"
        : "with the line";
  return [
    base,
    turn.by ? `${formatAngle(turn.by)} more` : "",
    turn.more ? `${formatAngle(turn.more)} more at each` : "",
    turn.chance ? `by chance within ${formatAngle(turn.chance)}` : "",
    turn.stands === "slope" ? "square to the slope" : "",
  ]
    .filter(Boolean)
    .join("; ");
}

/** Ask for the point on plan that items turn toward. */
function pickPoint(name: string, take: (point: [number, number]) => void) {
  useWindow.getState().set({
    view: "plan",
    plane: null,
    picking: {
      ask: [`The point that ${name} turn toward`],
      spots: [],
      done: ([spot]) => spot && take([spot.point[0], spot.point[1]]),
    },
  });
}

export function TurnQuestion({
  row,
  change,
  children,
}: {
  row: Row;
  change: (changes: object) => Promise<Problem | null>;
  children?: React.ReactNode;
}) {
  const units = useUnits();
  const turn = row.turn;
  const put = (part: object) => change({ turn: part });
  const counted = turn.counted ?? 1;
  const from = FROM.find(([, number]) => number === counted)?.[0] ?? "item";
  return (
    <Asked question="How is it turned?" answer={turnWords(turn)}>
      <Choice
        label="Turn"
        value={turn.kind}
        ways={[
          ["line", "With the line"],
          ["bearing", "One bearing"],
          ["toward", "To a point"],
        ]}
        choose={(kind) => {
          if (kind === "toward") pickPoint(row.name, (point) => void put({ kind, point }));
          else void put({ kind });
        }}
      />
      <div className="mt-1.5">
        {turn.kind === "bearing" && (
          <AngleField label="From north, clockwise" degrees={turn.bearing} take={(bearing) => put({ bearing })} />
        )}
        {turn.kind === "toward" && (
          <p className="mb-1 text-sm">
            <span className="text-pencil">
              {formatLength(turn.point[0] as number, units)} east, {formatLength(turn.point[1] as number, units)} north{" "}
            </span>
            <Words onClick={() => pickPoint(row.name, (point) => void put({ point }))}>pick another</Words>
          </p>
        )}
        <AngleField label="Turned further by" degrees={turn.by ?? 0} take={(by) => put({ by })} />
        <AngleField label="More at each item" degrees={turn.more ?? 0} take={(more) => put({ more })} />
        {(turn.more ?? 0) !== 0 && (
          <>
            <Choice
              label="About"
              value={turn.about ?? "up"}
              ways={[
                ["up", "Upright axis"],
                ["along", "Along it"],
                ["across", "Across it"],
              ]}
              choose={(about) => void put({ about })}
            />
            <div className="mt-1.5">
              <Choice
                label="Counted from"
                value={from}
                ways={[...FROM.map(([key, , words]): [string, string] => [key, words]), ["item", "An item"]]}
                choose={(key) => void put({ counted: FROM.find(([one]) => one === key)?.[1] ?? 2 })}
              />
            </div>
            {from === "item" && (
              <FigureField
                label="Counted from item"
                value={String(counted)}
                unit=""
                take={async (text) =>
                  /^-?[1-9]\d{0,6}$/.test(text.trim())
                    ? put({ counted: Number(text) })
                    : problemOf(
                        new Error(`“${text}” is no item: type its number, such as 4, or -2 for the last but one.`),
                      )
                }
              />
            )}
          </>
        )}
        <AngleField label="By chance, up to" degrees={turn.chance ?? 0} take={(chance) => put({ chance })} />
        {(turn.chance ?? 0) > 0 && (
          <p className="mb-1 text-right">
            <Words onClick={() => void put({ seed: Math.abs((turn.seed ?? 0) + 1) })}>Draw again</Words>
          </p>
        )}
        <Choice
          label="Stands"
          value={turn.stands ?? "plumb"}
          ways={[
            ["plumb", "Plumb"],
            ["slope", "Square to the slope"],
          ]}
          choose={(stands) => void put({ stands })}
        />
      </div>
      {children}
    </Asked>
  );
}
