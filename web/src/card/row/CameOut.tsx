/** What came out of a row, at the head of its card: how many items at what, and what else there is to say. */
import type { ReactNode } from "react";
import { count } from "../../ui/figures";

export function CameOut({ items, at, children }: { items: number; at: ReactNode; children: ReactNode }) {
  return (
    <div className="mt-2 mb-2 rounded-[3px] bg-lath px-2.5 py-1.5 text-sm" role="status" aria-label="What came out">
      <b className="figure">{count(items, "item")}</b> {at}
      <br />
      <span className="text-pencil">{children}</span>
    </div>
  );
}
