/** Items of a row that are held by hand: the one that is picked, and all that are held. */
import type { Edit, Problem, Row, RowFigures } from "../../api/client";
import { countOf, STRIDE } from "../../sheet/items";
import { useOneRowPlaces } from "../../sheet/places";
import { Asked } from "../../ui/Asked";
import { Pick, Words } from "../../ui/choices";
import { AngleField, LengthField, Setting } from "../../ui/fields";
import { count, formatAngle, formatLength, writeSentence } from "../../ui/figures";
import { useChanges, useUnits } from "../../window/job";
import { usePart } from "../../window/store";
import { letterOf } from "./PatternQuestion";

export function HeldQuestion({ row, figures }: { row: Row; figures: RowFigures | undefined }) {
  const units = useUnits();
  const { edit } = useChanges();
  const { piece, select } = usePart("piece", "select");
  const places = useOneRowPlaces(figures);
  const held = row.held ?? [];
  const picked = piece !== null && places && piece < countOf(places) ? piece : null;
  const standing = new Map((figures?.held ?? []).map((one) => [one.mark, one]));
  const go = (marks: string[]) => void edit([{ kind: "let_items_go", row: row.id, marks }]);
  const said = (one: (typeof held)[number]) =>
    [
      one.out ? "left out" : "",
      !one.out && one.item ? one.item : "",
      !one.out && one.turn ? `turned by ${formatAngle(one.turn)}` : "",
    ]
      .filter(Boolean)
      .join(", ");
  return (
    <Asked
      question="Which items are held?"
      answer={held.length ? `${held.length} held` : "none"}
      opens={picked !== null}
    >
      {picked === null ? (
        <p className="mb-1.5 text-pencil text-sm">
          Click an item on the rod to change that one alone, or drag it where it should stand: the others space
          themselves around it.
        </p>
      ) : (
        <PickedItem
          {...{ row, figures, number: picked }}
          at={places?.[picked * STRIDE + 4] ?? 0}
          letter={places?.[picked * STRIDE + 5] ?? 0}
          count={places ? countOf(places) : 0}
          hold={(more) =>
            edit([{ kind: "hold_item", row: row.id, at: places?.[picked * STRIDE + 4] ?? 0, ...more } as Edit])
          }
        />
      )}
      {held.length > 0 && (
        <ul aria-label="Held items" className="mt-1.5 text-sm">
          {held.map((one) => {
            const there = standing.get(one.mark);
            return (
              <li key={one.mark} className="flex items-baseline gap-2 border-rule border-t py-1">
                <button
                  type="button"
                  disabled={there?.number == null}
                  className="min-w-0 flex-1 cursor-pointer text-left hover:text-chalk-deep disabled:cursor-default"
                  onClick={() => there?.number != null && select([row.id], there.number)}
                >
                  <span className="figure">{there?.at == null ? "place lost" : formatLength(there.at, units)}</span>{" "}
                  <span className="text-pencil">{said(one)}</span>
                </button>
                <Words onClick={() => go([one.mark])}>let go</Words>
              </li>
            );
          })}
        </ul>
      )}
      {held.length > 1 && <Words onClick={() => go([])}>Let all {held.length} go</Words>}
    </Asked>
  );
}

function PickedItem({
  row,
  figures,
  number,
  at,
  letter,
  count: of,
  hold,
}: {
  row: Row;
  figures: RowFigures | undefined;
  number: number;
  at: number;
  letter: number;
  count: number;
  hold: (more: object) => Promise<Problem | null>;
}) {
  const units = useUnits();
  const mark = figures?.held.find((one) => one.number === number)?.mark;
  const own = row.held?.find((one) => one.mark === mark);
  const item = figures?.items[letter];
  const letters = [row.item, ...(row.pattern.others ?? [])].map((_, index) => letterOf(index));
  return (
    <div className="mb-1.5">
      <p className="mb-1 text-sm">
        <b>Item {number + 1}</b> <span className="text-pencil">of {count(of, "item")}</span>
        {item && <span className="text-pencil"> · {writeSentence(item.name, units)}</span>}
      </p>
      <LengthField label="Stands at" mm={at} take={(to) => hold({ to })} />
      {letters.length > 1 && (
        <Setting label="Which item">
          <Pick
            label="Which item"
            value={own?.item ?? ""}
            ways={[["", "as its turn is"], ...letters.map((one): [string, string] => [one, one])]}
            choose={(one) => void hold({ item: one || null })}
          />
        </Setting>
      )}
      <AngleField label="Turned further by" degrees={own?.turn ?? 0} take={(turn) => hold({ turn })} />
      <p className="flex justify-between">
        {own ? (
          <span className="text-pencil text-sm">held here</span>
        ) : (
          <Words onClick={() => void hold({})}>Hold it here</Words>
        )}
        <Words onClick={() => void hold({ out: true })}>Leave it out</Words>
      </p>
    </div>
  );
}
