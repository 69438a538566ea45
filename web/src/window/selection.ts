/** Looking up, among thousands that are selected, whether one is. */
const sets = new WeakMap<readonly string[], Set<string>>();

export function isIn(selected: readonly string[], id: string): boolean {
  if (selected.length < 8) return selected.includes(id);
  let found = sets.get(selected);
  if (!found) {
    found = new Set(selected);
    sets.set(selected, found);
  }
  return found.has(id);
}
