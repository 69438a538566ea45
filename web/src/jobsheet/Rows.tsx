/** The rows of a step: only those in sight are drawn, however many there are. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, type RefObject, useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";

/** How high a step's head is, pixels: those above stay in sight at the top, those below at the bottom. */
export const HEAD = 27;
export const STEPS = 4;

export interface Item {
  key: string;
  /** How high it is, pixels; of what may be of any height about how high, until it has been drawn. */
  high: number;
  any?: boolean;
  draw: () => ReactNode;
}

export function Rows({
  items,
  box,
  step,
  seek,
}: {
  items: Item[];
  box: RefObject<HTMLElement | null>;
  /** Which step it is, from 0, so that its rows do not come to lie under the heads of others. */
  step: number;
  /** The key of an item to bring into sight. */
  seek: string | null;
}) {
  const here = useRef<HTMLDivElement>(null);
  const [above, setAbove] = useState(0);
  // What stands above may have grown with any change.
  useLayoutEffect(() => setAbove(here.current?.offsetTop ?? 0));
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: (index) => items[index]?.high ?? HEAD,
    // A new function has all rows laid out anew.
    getItemKey: useCallback((index: number) => items[index]?.key ?? index, [items]),
    overscan: 24,
    scrollMargin: above,
    scrollPaddingStart: HEAD * (step + 1),
    scrollPaddingEnd: HEAD * (STEPS - step - 1),
  });
  const at = seek === null ? -1 : items.findIndex((item) => item.key === seek);
  // Only what is sought anew is brought into sight, not what moves because something else changed.
  const sought = useRef<string | null>(null);
  useEffect(() => {
    if (seek !== sought.current && at >= 0) rows.scrollToIndex(at, { align: "auto" });
    sought.current = at >= 0 ? seek : null;
  }, [seek, at, rows]);
  return (
    <div ref={here} className="relative" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map((row) => {
        const item = items[row.index] as Item;
        return (
          <div
            key={row.key}
            // To measure hundreds of rows costs more than to draw them.
            ref={item.any ? rows.measureElement : undefined}
            data-index={row.index}
            className="absolute top-0 left-0 w-full"
            style={{ transform: `translateY(${row.start - above}px)`, height: item.any ? undefined : item.high }}
          >
            {item.draw()}
          </div>
        );
      })}
    </div>
  );
}
