/** The window's colours stand in its style sheet; what draws without style sheets asks for them here by name. */
const known = new Map<string, string>();

export function colour(name: string): string {
  let found = known.get(name);
  if (found === undefined) {
    found = getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
    known.set(name, found);
  }
  return found;
}
