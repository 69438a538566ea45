import type { Draft } from "../api/client";
import { DraftCard } from "../card/section/DraftCard";
import type { KindShown } from "./kind";

/** A draft stands on the section desk alone. */
export const drafts: KindShown<Draft> = {
  card: ([draft]) => draft && <DraftCard draft={draft} />,
};
