/** Finding sections of the library by words and by sizes. */
import type { LibraryEntry } from "../../api/client";

/** Sizes that differ by less, mm, are the same to someone who looks for one. */
const NEAR = 0.5;

/** Whether a section is one that is looked for: every word in its name, family, material or standard, every number one of its sizes. */
export const isFound = (entry: LibraryEntry, looked: string): boolean => finder(looked)(entry);

/** What tells of sections whether they are looked for; the words are read once. */
export function finder(looked: string): (entry: LibraryEntry) => boolean {
  const words = looked
    .toLowerCase()
    .split(/[\s×,;]+|(?<=\d)x(?=\d)/)
    .filter(Boolean)
    .map((word) => ({ word, size: Number(word) }));
  if (!words.length) return () => true;
  return ({ section, family, standard }) => {
    const text = `${section.name} ${family} ${section.material ?? ""} ${standard}`.toLowerCase();
    // A thickness stands only in the name.
    const named = section.name.match(/\d+(\.\d+)?/g)?.map(Number) ?? [];
    const sizes = [section.width, section.height, ...(section.wall ? [section.wall] : []), ...named];
    return words.every(({ word, size }) =>
      // Long numbers are those of standards.
      Number.isFinite(size) && word.length < 5 ? sizes.some((one) => Math.abs(one - size) < NEAR) : text.includes(word),
    );
  };
}
