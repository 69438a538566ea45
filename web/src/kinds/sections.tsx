import type { Section } from "../api/client";
import { SectionCard } from "../card/section/SectionCard";
import { sizeWords } from "../ui/figures";
import type { KindShown } from "./kind";

export const sections: KindShown<Section> = {
  entry: (_, section, { units }) => ({ name: section.name, figure: sizeWords(section, units) }),
  card: ([section]) => section && <SectionCard section={section} />,
};
