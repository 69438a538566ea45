import type { Section } from "../../api/client";
import { sectionMaterialWays } from "../../sheet/tones";
import { Asked } from "../../ui/Asked";
import { Pick, Words } from "../../ui/choices";
import { Setting, TextField } from "../../ui/fields";
import { count, formatArea, formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { datumOrder } from "../../window/keys";
import { usePart, useWindow } from "../../window/store";
import { datumWords } from "../run/datums";
import { FactsOfSection } from "./FactsOfSection";
import { KeptInShop } from "./KeptInShop";
import { MadeOfOthers } from "./MadeOfOthers";
import { MembersWith } from "./MembersWith";
import { PartsOfOutline } from "./PartsOfOutline";
import { SizesOfSection } from "./SizesOfSection";
import { TracedFrom } from "./TracedFrom";

export function SectionCard({ section }: { section: Section }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { select } = usePart("select");
  const figures = shown.sections.find((one) => one.id === section.id);
  const change = (changes: object) => edit([{ kind: "set_section", section: section.id, changes }]);
  const bed = section.bed?.kind === "edge" ? `edge:${section.bed.edge}` : `side:${section.bed?.side ?? "back"}`;
  const users =
    shown.job.runs?.filter(
      (run) => run.section === section.id || run.seconds?.some((one) => one.section === section.id),
    ) ?? [];
  const totals = shown.totals.sections[section.id];
  const others = (shown.job.sections ?? []).filter((one) => one.id !== section.id);
  return (
    <>
      <TextField label="Name of the section" value={section.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        closed · used by{" "}
        {users.length
          ? `${count(users.length, "run")}, ${count(totals?.pieces ?? 0, "piece")}${section.member ? "" : ": a change here changes them all"}`
          : "no run"}
        {users.length > 0 && (
          <>
            {" · "}
            <Words
              onClick={() => {
                useWindow.getState().show(useWindow.getState().drawing);
                select(users.map((run) => run.id));
              }}
            >
              {users.length === 1 ? "Select it" : "Select them"}
            </Words>
          </>
        )}
      </p>
      {section.member && <MembersWith section={section} />}
      {!section.member && (
        <>
          {figures && <PartsOfOutline section={section} figures={figures} />}
          <MadeOfOthers section={section} />
          <TracedFrom id={section.id} />
          <SizesOfSection section={section} figures={figures} />
          <Asked
            question="What sits on the line?"
            answer={section.datum?.kind === "point" ? "a typed point" : datumWords[section.datum?.name ?? "back-foot"]}
          >
            <Setting label="Datum">
              <Pick
                label="Datum"
                value={section.datum?.kind === "named" ? (section.datum.name ?? "back-foot") : null}
                various="typed point"
                ways={datumOrder.map((name): [(typeof datumOrder)[number], string] => [name, datumWords[name] ?? name])}
                choose={(name) => void change({ datum: { kind: "named", name } })}
              />
            </Setting>
          </Asked>
        </>
      )}
      <Asked
        question="What is it made of?"
        answer={sectionMaterialWays.find(([way]) => way === (section.material ?? "softwood"))?.[1]}
      >
        <Setting label="Material">
          <Pick
            label="Material"
            value={section.material ?? "softwood"}
            ways={sectionMaterialWays}
            choose={(material) => void change({ material })}
          />
        </Setting>
        {!section.member && (
          <Setting label="On the saw table">
            <Pick
              label="On the saw table"
              value={bed}
              ways={[
                ["side:back", "back"],
                ["side:foot", "bottom"],
                ["side:front", "front"],
                ["side:head", "top"],
                ...(figures?.beds ?? []).map((edge): [string, string] => [`edge:${edge}`, `slanting edge ${edge + 1}`]),
              ]}
              choose={(way) => {
                const [kind, what] = way.split(":");
                void change({ bed: kind === "edge" ? { kind, edge: Number(what) } : { kind, side: what } });
              }}
            />
          </Setting>
        )}
      </Asked>
      <Asked
        question="How much of it is there?"
        answer={`${formatArea(figures?.area ?? 0, units)}${totals ? `, ${formatLength(totals.line_length, units)} long` : ""}`}
      >
        <Setting label="Area">
          <span className="figure">{formatArea(figures?.area ?? 0, units)}</span>
        </Setting>
        <Setting label="Perimeter">
          <span className="figure">{formatLength(figures?.perimeter ?? 0, units)}</span>
        </Setting>
        {totals && (
          <Setting label="Length on line">
            <span className="figure">{formatLength(totals.line_length, units)}</span>
          </Setting>
        )}
      </Asked>
      {section.stock && (
        <Asked question="How is it sold?" answer={`${section.stock.supplier}, ${section.stock.code}`}>
          <p className="text-sm">
            {section.stock.supplier}, {section.stock.code}: {section.stock.price.toFixed(2)} {section.stock.currency} a
            metre, in lengths of {section.stock.lengths.map((mm) => formatLength(mm, units)).join(", ")}, in{" "}
            {count(section.stock.days, "day")}.
          </p>
        </Asked>
      )}
      <FactsOfSection section={section} />
      <KeptInShop section={section} />
      {users.length > 0 && (
        <Asked question="Which runs use it?" answer={users.map((run) => run.name).join(", ")}>
          {others.length > 0 && !section.member && (
            <Setting label={users.length > 1 ? "Replace in all of them" : "Replace in it"}>
              <Pick
                label="Replace by"
                value={null}
                various="another section"
                ways={others.map((one): [string, string] => [one.id, one.name])}
                choose={(by) => void edit([{ kind: "exchange_section", section: section.id, by }])}
              />
            </Setting>
          )}
          <ul>
            {users.map((run) => (
              <li key={run.id}>
                <Words onClick={() => select([run.id])}>{run.name}</Words>
              </li>
            ))}
          </ul>
        </Asked>
      )}
    </>
  );
}
