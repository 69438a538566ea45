import { count, formatLength, formatMass, formatPainted, sizeWords } from "../ui/figures";
import { useShown, useUnits } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { runById, sectionById, sectionOfRun } from "../window/things";
import { cutColumns, type Optional } from "./Columns";
import type { Part } from "./ordering";

const bedWords: Record<string, string> = {
  back: "back on the table",
  foot: "bottom on the table",
  front: "front on the table",
  head: "top on the table",
};

/** The head of a run, of a section, or of all together. */
export function PartHead({ part, stuck = false, shows }: { part: Part; stuck?: boolean; shows: Shows }) {
  const HeadOfPart = { run: RunHead, section: SectionHead, place: PlaceHead, none: null }[part.of];
  return HeadOfPart && <HeadOfPart part={part} stuck={stuck} shows={shows} />;
}

type Shows = (column: Optional) => boolean;

interface Props {
  part: Part;
  stuck: boolean;
  shows: Shows;
}

function PartTotals({ part, padding, shows }: { part: Part; padding: string; shows: Shows }) {
  const units = useUnits();
  return (
    <>
      <td className={`figure text-right text-pencil ${padding}`}>{formatLength(part.bar, units)}</td>
      {shows("short") && <td />}
      {shows("line") && (
        <td className={`figure text-right text-pencil ${padding}`}>{formatLength(part.line, units)}</td>
      )}
      {cutColumns(shows) > 0 && (
        <td colSpan={cutColumns(shows)} className={`whitespace-nowrap pr-2 text-right text-pencil ${padding}`}>
          {count(part.pieces, "piece")}
        </td>
      )}
      {shows("weight") && (
        <td className={`figure text-right text-pencil ${padding}`}>{formatMass(part.weight, units)}</td>
      )}
      {shows("painted") && (
        <td className={`figure pr-1 text-right text-pencil ${padding}`}>{formatPainted(part.painted, units)}</td>
      )}
    </>
  );
}

function PlaceHead({ part, stuck, shows }: Props) {
  const { id } = part;
  const padding = stuck ? "py-0.5" : "py-0.5 pt-2";
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <b>{id || "In no place of a typical"}</b>
      </th>
      <PartTotals part={part} padding={padding} shows={shows} />
    </tr>
  );
}

function SectionHead({ part, stuck, shows }: Props) {
  const { id } = part;
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const section = sectionById(shown, id);
  const padding = stuck ? "py-0.5" : "py-0.5 pt-2";
  const runs = [...new Set(part.rows.map((one) => one.run))];
  if (!section) return null;
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <button
          type="button"
          data-walk="head"
          className="cursor-pointer hover:text-chalk-deep"
          onClick={() => select(runs)}
        >
          <b>{section.name}</b>
        </button>
        <span className="text-pencil">
          {" "}
          · {sizeWords(section, units)} · {count(runs.length, "run")}
        </span>
      </th>
      <PartTotals part={part} padding={padding} shows={shows} />
    </tr>
  );
}

function RunHead({ part, stuck, shows }: Props) {
  const { id } = part;
  const shown = useShown();
  const units = useUnits();
  const select = useWindow((state) => state.select);
  const on = useWindow((state) => isIn(state.selected, id));
  const run = runById(shown, id);
  const section = sectionOfRun(shown, run);
  const padding = stuck ? "py-0.5" : "py-0.5 pt-2";
  const first = part.rows.find((one) => one.run === id)?.row;
  if (!run || !section) return null;
  const slanting = shown.job.saw?.sprung ? "against the fence, head on the table" : "sprung back on the table";
  const bed = section.bed?.kind === "side" ? bedWords[section.bed.side ?? "back"] : slanting;
  return (
    <tr className={`border-rule border-b ${stuck ? "bg-paper [&>*]:shadow-[inset_0_-1px_0_var(--color-rule)]" : ""}`}>
      <th colSpan={3} className={`truncate pl-2 text-left font-normal ${padding}`}>
        <button
          type="button"
          data-walk="head"
          className="cursor-pointer hover:text-chalk-deep"
          onClick={() => select([id])}
        >
          <b className={on ? "text-chalk-deep" : ""}>{run.name}</b>
        </button>
        <span className="text-pencil">
          {" "}
          · {section.name === run.name ? "" : `${section.name} `}
          {sizeWords(section, units)} · {bed}
          {first && <span title="The edge of the section that lies to the left of travel">, {first.left} left</span>}
        </span>
      </th>
      <PartTotals part={part} padding={padding} shows={shows} />
    </tr>
  );
}
