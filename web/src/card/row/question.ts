/** What every question of a row's card is given. */
import type { Problem, Row, RowFigures } from "../../api/client";

export interface RowQuestion {
  row: Row;
  figures: RowFigures | undefined;
  change: (changes: object) => Promise<Problem | null>;
}
