/** The name somebody gave themselves in this browser: what they change is signed with it. */
const KEPT = "slow-ribbon.name";

export function authorKept(): string {
  return localStorage.getItem(KEPT) ?? "";
}

export function keepAuthor(name: string) {
  const text = name.trim().slice(0, 60);
  if (text) localStorage.setItem(KEPT, text);
  else localStorage.removeItem(KEPT);
}
