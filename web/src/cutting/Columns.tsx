/** What the cutting list shows besides tag, number, piece and long point; kept on this machine, for every job. */
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { create } from "zustand";

export type Optional = "short" | "line" | "begins" | "ends" | "weight" | "painted" | "notes";

const COLUMNS: [Optional, string][] = [
  ["short", "Short point"],
  ["line", "Length on line"],
  ["begins", "Begins"],
  ["ends", "Ends"],
  ["weight", "Weight"],
  ["painted", "Painted area"],
  ["notes", "Notes"],
];
const KEPT = "slow-ribbon columns";

interface Chosen {
  left: Optional[];
  show: (column: Optional, on: boolean) => void;
}

/** What is left out. */
export const useColumns = create<Chosen>((set) => ({
  left: kept(),
  show: (column, on) =>
    set(({ left }) => {
      const now = [...left.filter((one) => one !== column), ...(on ? [] : [column])];
      localStorage.setItem(KEPT, JSON.stringify(now));
      return { left: now };
    }),
}));

function kept(): Optional[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "null");
    if (Array.isArray(found)) return COLUMNS.map(([column]) => column).filter((column) => found.includes(column));
  } catch {
    // What cannot be read was not written here: the usual columns.
  }
  return [];
}

/** Returns whether a column is shown. */
export function useShows(): (column: Optional) => boolean {
  const left = useColumns((state) => state.left);
  return (column) => !left.includes(column);
}

export function Columns() {
  const { left, show } = useColumns();
  return (
    <Popover className="relative">
      <PopoverButton className="h-7 cursor-pointer rounded-[3px] border border-edge bg-paper px-2 hover:border-pencil">
        Columns <span aria-hidden>▾</span>
      </PopoverButton>
      <PopoverPanel
        anchor="bottom end"
        className="z-30 mt-1 rounded-[3px] border border-edge bg-paper px-3 py-2 shadow-lg focus:outline-none"
      >
        {COLUMNS.map(([column, words]) => (
          <label key={column} className="flex cursor-pointer items-center gap-2 py-0.5">
            <input
              type="checkbox"
              checked={!left.includes(column)}
              onChange={(event) => show(column, event.target.checked)}
            />
            {words}
          </label>
        ))}
      </PopoverPanel>
    </Popover>
  );
}

/** How many of the columns of both cuts are shown. */
export const cutColumns = (shows: (column: Optional) => boolean) =>
  (["begins", "ends"] as const).filter((column) => shows(column)).length;
