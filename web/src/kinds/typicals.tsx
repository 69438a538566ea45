import type { Typical } from "../api/client";
import { TypicalCard } from "../card/typical/TypicalCard";
import { count } from "../ui/figures";
import { checksOf, typicalFigures } from "../window/things";
import type { KindShown } from "./kind";

export const typicals: KindShown<Typical> = {
  entry: (shown, typical, { sentence }) => {
    const figures = typicalFigures(shown, typical.id);
    const [check] = checksOf(shown, typical.id);
    return {
      name: typical.name,
      figure: figures ? count(figures.places.length, "place") : "…",
      doubt: check ? sentence(check.what) : undefined,
    };
  },
  card: ([typical], checks) => typical && <TypicalCard typical={typical} checks={checks} />,
  removesItself: true,
};
