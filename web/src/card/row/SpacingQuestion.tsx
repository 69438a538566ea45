import { Asked } from "../../ui/Asked";
import { Choice, Pick } from "../../ui/choices";
import { CountField, LengthField } from "../../ui/fields";
import { SPACING } from "../questions";
import { AlongOrWithin } from "./AlongOrWithin";
import type { RowQuestion } from "./question";
import { figureOf, measures, ruleOf, rules } from "./rules";

export function SpacingQuestion({ row, figures, answer, change }: RowQuestion & { answer: string }) {
  const { spacing } = row;
  const rule = ruleOf(spacing.rule.kind);
  const space = (part: object) => change({ spacing: part });
  const ring = figures?.ring ?? false;
  const stretches = figures?.stretches ?? [];
  // First and last are counted by the rule whether or not they are left out.
  const left = ring ? 0 : Number(spacing.first === false) + Number(spacing.last === false);
  const single = stretches.length === 1 ? stretches[0] : undefined;
  const number = rule.counts
    ? figureOf(spacing.rule)
    : single
      ? single.bays + Number(!ring)
      : Math.max(1, ...stretches.map((one) => one.bays + 1));
  const widest = Math.max(0, ...stretches.filter((one) => one.bays).map((one) => one.centres));
  const held = rule.counts ? "number" : "distance";
  const holdNumber = (count: number) => space({ rule: { kind: "set-number", number: count } });
  const holdCentres = (near: number) => space({ rule: { kind: "nearest-bays", near } });
  const pin = (which: typeof held, hold: () => void, what: string) => (
    <button
      type="button"
      aria-pressed={held === which}
      aria-label={held === which ? `held: ${what.toLowerCase()}` : `follows: hold ${what.toLowerCase()}`}
      title={held === which ? `${what} is held; the other follows` : `Hold ${what.toLowerCase()} instead`}
      onClick={() => held !== which && hold()}
      className={`h-7 w-16 shrink-0 rounded-[3px] border text-xs ${held === which ? "border-wax bg-wax-wash text-ink" : "cursor-pointer border-transparent text-pencil underline decoration-dotted underline-offset-2 hover:text-ink"}`}
    >
      {held === which ? "held" : "follows"}
    </button>
  );
  return (
    <Asked question={SPACING} answer={answer}>
      <AlongOrWithin {...{ row, change }} />
      <Pick
        label="Spacing rule"
        wide
        value={rule.kind}
        ways={rules.map((one): [typeof one.kind, string] => [one.kind, one.words])}
        choose={(kind) => {
          // The distance is taken over, the newest there is; a set number is the one there is now.
          void space({ rule: kind === "set-number" ? { kind, number: Math.max(1, number + 0) } : { kind } });
        }}
      />
      <div className="mt-1.5">
        <div className="flex items-start gap-2">
          <div className="min-w-0 flex-1">
            {rule.counts ? (
              <LengthField label="Centres" mm={widest || null} placeholder="–" take={holdCentres} />
            ) : (
              <LengthField
                label={rule.label}
                mm={figureOf(spacing.rule)}
                bound={{ thing: row.id, field: `spacing.rule.${rule.field}` }}
                take={(mm) => space({ rule: { [rule.field]: mm } })}
              />
            )}
          </div>
          {pin("distance", () => widest > 0 && void holdCentres(widest), "The distance")}
        </div>
        <div className="flex items-start gap-2">
          <div className="min-w-0 flex-1">
            <CountField
              label={stretches.length > 1 ? "Number in a stretch" : rule.counts ? rule.label : "Items"}
              value={rule.counts ? number : Math.max(1, number - left)}
              take={(count) => (rule.counts ? space({ rule: { number: count } }) : holdNumber(count + left))}
            />
          </div>
          {pin("number", () => void holdNumber(number), "The number")}
        </div>
        {spacing.rule.kind === "fixed-centres" && (
          <Choice
            label="Counted"
            value={spacing.rule.origin ?? "start"}
            ways={[
              ["start", ring ? "Onward" : "From start"],
              ["centred", ring ? "Both ways" : "Centred"],
              ["end", ring ? "Backward" : "From end"],
            ]}
            choose={(origin) => void space({ rule: { origin } })}
          />
        )}
        <div className="mt-1.5">
          <Choice
            label="Measured"
            value={spacing.measured ?? "along"}
            ways={measures}
            choose={(measured) => void space({ measured })}
          />
        </div>
      </div>
    </Asked>
  );
}
