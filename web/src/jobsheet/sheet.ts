/** How this browser shows the job sheet: what is looked for, how it is grouped, what is folded. */
import { create } from "zustand";
import type { Asked } from "./listing";

interface SheetState extends Asked {
  /** Keys of steps and groups that are folded. */
  folded: ReadonlySet<string>;
  ask: (part: Partial<Asked>) => void;
  fold: (key: string) => void;
  /** Show a job's sheet as it was left in this browser. */
  open: (job: string) => void;
}

const KEPT = "slow-ribbon.job-sheet.";
let job = "";

function keep({ by, folded }: SheetState) {
  // As with every store of a browser there may be no room, or none wanted: the sheet is then as new next time.
  try {
    localStorage.setItem(KEPT + job, JSON.stringify({ by, folded: [...folded] }));
  } catch (error) {
    console.info("How the job sheet is shown is not kept:", error);
  }
}

function kept(): { by: Asked["by"]; folded: ReadonlySet<string> } {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT + job) ?? "{}");
    return { by: found.by ?? "none", folded: new Set(found.folded ?? []) };
  } catch {
    // Written by something else, or cut short: as new.
    return { by: "none", folded: new Set() };
  }
}

export const useSheet = create<SheetState>((set, get) => ({
  words: "",
  only: "all",
  by: "none",
  folded: new Set(),
  ask: (part) => {
    set(part);
    keep(get());
  },
  fold: (key) => {
    const folded = new Set(get().folded);
    if (!folded.delete(key)) folded.add(key);
    set({ folded });
    keep(get());
  },
  open: (id) => {
    job = id;
    set({ words: "", only: "all", ...kept() });
  },
}));
