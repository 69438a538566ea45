/** What the window knows of a kind of thing: what stands of one in the job sheet, and the card of those that are selected. */
import type { ReactNode } from "react";
import type { JobShown, Sentence } from "../api/client";
import type { useUnits } from "../window/job";

/** What stands of a thing in its row of the job sheet; figures that are not worked out yet are three dots. */
export interface SheetEntry {
  name: string;
  figure: string;
  about?: string;
  doubt?: string | undefined;
  fault?: boolean;
}

/** How lengths and sentences are written in the job's units. */
export interface Writing {
  units: ReturnType<typeof useUnits>;
  sentence: (parts: Sentence) => string;
}

export interface KindShown<Thing extends { id: string }> {
  /** What stands of a thing in the job sheet; nothing for kinds that are not listed there. */
  entry?: (shown: JobShown, thing: Thing, writing: Writing) => SheetEntry;
  /** The card of selected things of the kind, in the order in which they were selected; `checks` are those that concern them. */
  card?: (things: Thing[], checks: ReactNode) => ReactNode;
  /** Whether several are shown together on one card; of others only the first that is selected is. */
  together?: boolean;
  /** Whether the card has words of its own for removing the thing. */
  removesItself?: boolean;
}
