import type { ReactNode } from "react";

/** Keys and acts that are at hand on the sheet, along its foot; those for which there is no room are left out. */
export function Hints({ children }: { children: ReactNode }) {
  return (
    <div className="pointer-events-none absolute right-3 bottom-2.5 left-32 flex h-7 flex-wrap items-center justify-end gap-x-3 overflow-hidden text-pencil text-sm *:flex *:h-7 *:items-center *:gap-x-1 *:whitespace-nowrap *:rounded-[3px] *:bg-paper/85 *:px-1">
      {children}
    </div>
  );
}
