/** A section's facts, as the service finds them: its properties, what fits in it and round it, how tight it bends. */
import { problemOf, type Section } from "../../api/client";
import { useLooked } from "../../sectiondesk/facts";
import { Asked } from "../../ui/Asked";
import { Setting } from "../../ui/fields";
import { formatAngle, formatFace, formatLength, formatPower, formatWeight } from "../../ui/figures";
import { useUnits } from "../../window/job";

export function FactsOfSection({ section }: { section: Section }) {
  const units = useUnits();
  const { data, error } = useLooked(section);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const length = (mm: number) => formatLength(mm, fine);
  if (error) return <p className="mt-4 text-red text-sm">{problemOf(error).detail}</p>;
  if (!data) return null;
  const { facts } = data;
  const [long, short] = facts.rectangle;
  return (
    <>
      <Asked
        question="What does it weigh?"
        answer={`${formatWeight(facts.weight, units)}, ${formatFace(facts.painted, units)} painted`}
      >
        <Fact label="Weight">{formatWeight(facts.weight, units)}</Fact>
        <Fact label="Painted area">{formatFace(facts.painted, units)}</Fact>
      </Asked>
      <Asked
        question="How stiff is it?"
        answer={`${formatPower(facts.ix, 4, units)}; ${formatPower(facts.iy, 4, units)}`}
      >
        <Fact label="Centroid, across and up">
          {length(facts.centroid[0])}; {length(facts.centroid[1])}
        </Fact>
        <Fact label="Second moment, level axis">{formatPower(facts.ix, 4, units)}</Fact>
        <Fact label="Second moment, upright axis">{formatPower(facts.iy, 4, units)}</Fact>
        <Fact label="Section modulus, level axis">{formatPower(facts.modulus_x, 3, units)}</Fact>
        <Fact label="Section modulus, upright axis">{formatPower(facts.modulus_y, 3, units)}</Fact>
        <Fact label="Greatest second moment">{formatPower(facts.greatest, 4, units)}</Fact>
        <Fact label="Least second moment">{formatPower(facts.least, 4, units)}</Fact>
        <Fact label="Principal axis, from level">{formatAngle(facts.principal_angle)}</Fact>
        {facts.torsion !== null && <Fact label="Torsion constant">{formatPower(facts.torsion, 4, units)}</Fact>}
      </Asked>
      <Asked question="What fits?" answer={`within ${length(long)} × ${length(short)}`}>
        <Fact label="Narrowest place">{length(facts.narrowest[0] as number)}</Fact>
        <Fact label="Largest circle in it, diameter">{length(2 * facts.circle[2])}</Fact>
        <Fact label="Smallest rectangle round it">
          {length(long)} × {length(short)}
        </Fact>
        <Fact label="Tightest bend to the left">{length(facts.bend_left)}</Fact>
        <Fact label="Tightest bend to the right">{length(facts.bend_right)}</Fact>
        <p className="text-pencil text-sm">
          Bends by their radius on the line, with the section on its datum, facing right.
        </p>
      </Asked>
    </>
  );
}

function Fact({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Setting label={label}>
      <span className="figure whitespace-nowrap">{children}</span>
    </Setting>
  );
}
