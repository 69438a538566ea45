/** Where the lath lies on the rod, px. */
export const TOP = 54;
export const FOOT = 132;

export type Scale = (value: number) => number;

/** What goes over the start of a closed line lies at both ends of the rod. */
export function spans(begin: number, end: number, length: number): [number, number][] {
  if (end > begin && end <= length + 1e-6) return [[begin, end]];
  const over = end > length ? end - length : end;
  return ([[begin, length] as [number, number], [0, over] as [number, number]] as [number, number][]).filter(
    ([from, to]) => to - from > 1e-6,
  );
}
