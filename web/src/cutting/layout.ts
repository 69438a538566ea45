/** How wide the columns of the cutting list are: what is left of the sheet is for the pictures of the pieces. */
import { useState } from "react";
import { useSize } from "../ui/useSize";
import { type Optional, useShows } from "./Columns";

/** Widths of the columns, pixels. */
export const WIDE = { tag: 72, quantity: 34, long: 74, short: 76, line: 74, weight: 68, painted: 74 };
/** Room for the words of a cut, where there is little and where there is enough. */
const CUT = { least: 104, most: 172 };
/** Room beside a picture for the names of the edges left and right of travel, and the least for the picture. */
export const EDGES = 44;
const PICTURE = 84;
/** A sheet narrower than this, pixels, has no room for weight and painted area. */
const NARROW = 860;

export interface Layout {
  shows: (column: Optional) => boolean;
  /** How wide the cells of a cut are. */
  cut: number;
  /** How long the longest straight piece of the list is drawn. */
  picture: number;
  /** How high the sheet is. */
  height: number;
}

export function useLayout(): Layout & { frame: (box: HTMLElement | null) => void } {
  const chosen = useShows();
  const [frame, size] = useSize<HTMLElement>();
  const [width, setWidth] = useState(size.width);
  // A list out of sight has no width: it keeps the one it had.
  if (size.width > 0 && size.width !== width) setWidth(size.width);
  const sheet = Math.max(672, width || 998);
  const shows = (column: Optional) =>
    chosen(column) && (sheet >= NARROW || (column !== "weight" && column !== "painted"));
  const figures =
    WIDE.tag +
    WIDE.quantity +
    WIDE.long +
    (["short", "line", "weight", "painted"] as const).reduce((sum, one) => sum + (shows(one) ? WIDE[one] : 0), 0);
  const cuts = (["begins", "ends"] as const).filter((one) => shows(one)).length;
  const left = sheet - figures;
  const cut = cuts ? Math.min(CUT.most, Math.max(CUT.least, (left - EDGES - PICTURE - 28) / cuts)) : 0;
  return { shows, cut, picture: Math.max(80, left - cuts * cut - EDGES - 18), height: size.height, frame };
}
