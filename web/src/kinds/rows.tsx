import type { Row } from "../api/client";
import { RowCard } from "../card/row/RowCard";
import { count } from "../ui/figures";
import { rowFigures } from "../window/things";
import type { KindShown } from "./kind";

export const rows: KindShown<Row> = {
  entry: (shown, row) => {
    const figures = rowFigures(shown, row.id);
    return { name: row.name, figure: figures ? count(figures.count, "item") : "…" };
  },
  card: ([row], checks) => row && <RowCard row={row} checks={checks} />,
};
