/** What an edit says of a place. */

/** A place of which only one coordinate is said. */
export function only(axis: number, mm: number): (number | null)[] {
  return [0, 1, 2].map((one) => (one === axis ? mm : null));
}
