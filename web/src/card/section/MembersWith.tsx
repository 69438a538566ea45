/** What a second section follows: the one it members with, where that rises as it turns. */
import type { Section } from "../../api/client";
import { Words } from "../../ui/choices";
import { Question } from "../../ui/fields";
import { formatLength } from "../../ui/figures";
import { useChanges, useShown, useUnits } from "../../window/job";
import { usePart } from "../../window/store";

export function MembersWith({ section }: { section: Section }) {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { select } = usePart("select");
  const first = shown.job.sections?.find((one) => one.id === section.member?.of);
  if (!section.member || !first) return null;
  return (
    <>
      <Question>What does it follow?</Question>
      <p className="text-sm">
        It members with <Words onClick={() => select([first.id])}>{first.name}</Words>
        {section.member.size ? `, ${section.member.size},` : ""} where that rises as it turns: as deep, and its heights
        drawn along the rise. It is {formatLength(section.width, units)} × {formatLength(section.height, units)}, drawn
        anew whenever that section, the line or the way it runs changes. The dashes are the section it members with.
      </p>
      <p className="mt-1 text-sm">
        <Words onClick={() => void edit([{ kind: "free_section", section: section.id }])}>Detach it</Words>
      </p>
    </>
  );
}
