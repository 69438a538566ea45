/** Which items stand in a row, and in which order. */
import { useState } from "react";
import type { Problem, Row } from "../../api/client";
import { problemOf } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Pick, Words } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Setting } from "../../ui/fields";
import { writeSentence } from "../../ui/figures";
import { useUnits } from "../../window/job";
import { ItemFields } from "./ItemFields";
import { itemKindOf } from "./itemKinds";
import type { RowQuestion } from "./question";

type Other = NonNullable<Row["pattern"]["others"]>[number];

export const letterOf = (number: number) => String.fromCharCode(65 + number);

/** Where another item may stand than its turn would have. */
const ELSEWHERE: ["at_ends" | "at_corners" | "at_openings", string][] = [
  ["at_ends", "First and last"],
  ["at_corners", "On corners"],
  ["at_openings", "Beside openings"],
];

export function PatternQuestion({ row, figures, change }: RowQuestion) {
  const units = useUnits();
  const { pattern } = row;
  const others = pattern?.others ?? [];
  const turns = pattern?.turns ?? "A";
  const [open, setOpen] = useState<number | null>(null);
  const letters = [row.item, ...others.map((one) => one.item)].map((_, number) => letterOf(number));
  const put = (more: Other[], rest: object = {}) => change({ pattern: { others: more, ...rest } });
  const add = () => {
    const last = others.at(-1);
    const item = last?.item ?? row.item;
    const letter = letterOf(others.length + 1);
    setOpen(others.length);
    void put([...others, { item, seat: {} } as Other], { turns: turns + letter });
  };
  const remove = (number: number) => {
    const gone = letterOf(number + 1);
    // Those after it move up by a letter.
    const renamed = (letter: string) => (letter > gone ? String.fromCharCode(letter.charCodeAt(0) - 1) : letter);
    const left = [...turns].filter((letter) => letter !== gone).map(renamed);
    const elsewhere = Object.fromEntries(
      ELSEWHERE.map(([field]) => {
        const letter = pattern?.[field];
        return [field, letter && letter !== gone ? renamed(letter) : null];
      }),
    );
    setOpen(null);
    void put(
      others.filter((_, i) => i !== number),
      { turns: left.join("") || "A", ...elsewhere },
    );
  };
  const counted = (figures?.items ?? []).filter((item) => item.count > 0);
  const answer =
    others.length === 0
      ? "one kind of item"
      : `${[...turns].join(" ")}${ELSEWHERE.map(([field, words]) => (!row.filling && pattern?.[field] ? `; ${words.toLowerCase()} ${pattern[field]}` : "")).join("")}`;
  return (
    <Asked question="Which item stands where?" answer={answer}>
      {others.length > 0 && (
        <>
          <FigureField
            label="In turn"
            value={[...turns].join(" ")}
            unit=""
            take={async (text) => {
              const typed = text.toUpperCase().replace(/[\s,-]+/g, "");
              const unknown = [...typed].find((letter) => !letters.includes(letter));
              if (!typed || unknown) {
                return problemOf(
                  new Error(
                    `Type the letters of this row’s items in their order: ${letters.join(", ")}, such as A B B A.`,
                  ),
                );
              }
              return change({ pattern: { turns: typed } });
            }}
          />
          {row.filling ? null : (
            <>
              <Choice
                label="Counted"
                value={pattern?.counted ?? "start"}
                ways={[
                  ["start", "From the first"],
                  ["end", "From the last"],
                ]}
                choose={(way) => void change({ pattern: { counted: way } })}
              />
              <div className="mt-1.5">
                {ELSEWHERE.map(([field, words]) => (
                  <Setting key={field} label={words}>
                    <Pick
                      label={words}
                      value={pattern?.[field] ?? ""}
                      ways={[["", "as its turn is"], ...letters.map((letter): [string, string] => [letter, letter])]}
                      choose={(letter) => void change({ pattern: { [field]: letter || null } })}
                    />
                  </Setting>
                ))}
              </div>
            </>
          )}
        </>
      )}
      <ul aria-label="Items of the row" className="mb-1.5 text-sm">
        {(counted.length > 1 || others.length > 0 ? (figures?.items ?? []) : []).map((item, number) => (
          <li key={item.letter} className="border-rule border-t py-1">
            <div className="flex items-baseline gap-2">
              <b>{item.letter}</b>
              <span className="min-w-0 flex-1 text-pencil">{writeSentence(item.name, units)}</span>
              <span className="figure">× {item.count}</span>
              {number > 0 && (
                <Words onClick={() => setOpen(open === number - 1 ? null : number - 1)} label={`Change ${item.letter}`}>
                  {open === number - 1 ? "close" : "change"}
                </Words>
              )}
            </div>
            {number > 0 && open === number - 1 && others[number - 1] && (
              <OtherFields
                other={others[number - 1] as Other}
                letter={item.letter}
                put={(one) => put(others.map((was, i) => (i === number - 1 ? one : was)))}
                remove={() => remove(number - 1)}
              />
            )}
          </li>
        ))}
      </ul>
      <Words onClick={add}>Add another item</Words>
    </Asked>
  );
}

function OtherFields({
  other,
  letter,
  put,
  remove,
}: {
  other: Other;
  letter: string;
  put: (other: Other) => Promise<Problem | null>;
  remove: () => void;
}) {
  const change = (part: Partial<Other>) => put({ ...other, ...part });
  return (
    <div className="mt-1 border-chalk-soft border-l-2 pl-2">
      <ItemFields
        item={other.item}
        letter={letter}
        change={async (part) => {
          if (!part.kind) return change({ item: { ...other.item, ...part } as Other["item"] });
          const { height } = itemKindOf(part.kind as Other["item"]["kind"]).usual;
          return change({ item: { ...part, height } as Other["item"] });
        }}
        material={{
          value: other.material ?? null,
          various: "the row’s",
          choose: (material) => void change({ material }),
        }}
      />
      <LengthField label="Further along" mm={other.shift ?? 0} take={(shift) => change({ shift })} />
      <LengthField label="To the right" mm={other.stand_off ?? 0} take={(stand_off) => change({ stand_off })} />
      <LengthField label="Up" mm={other.lift ?? 0} take={(lift) => change({ lift })} />
      <AngleField label="Turned by" degrees={other.turn ?? 0} take={(turn) => change({ turn })} />
      <Words onClick={remove}>Remove {letter}</Words>
    </div>
  );
}
