import type { Line } from "../api/client";
import { LineCard, lineWords } from "../card/line/LineCard";
import { formatLength } from "../ui/figures";
import { lineFigures } from "../window/things";
import type { KindShown } from "./kind";

export const lines: KindShown<Line> = {
  entry: (shown, line, { units, sentence }) => {
    const figures = lineFigures(shown, line.id);
    return {
      name: line.name,
      figure: figures ? formatLength(figures.length, units) : "…",
      about: figures ? lineWords(line, figures) : "\u00a0",
      doubt: figures?.faults[0] ? sentence(figures.faults[0].what) : undefined,
    };
  },
  card: (things) => <LineCard lines={things} />,
  together: true,
};
