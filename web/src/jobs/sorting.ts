/** The list of jobs, found and sorted. */
import type { JobSummary } from "../api/client";

export type Column = "name" | "lines" | "runs" | "rows" | "faults" | "changed";

export interface Sorted {
  by: Column;
  /** The other way round than the column is usually read. */
  back: boolean;
}

export const columns: [Column, string][] = [
  ["name", "Job, and its last change"],
  ["lines", "Lines"],
  ["runs", "Runs"],
  ["rows", "Rows"],
  ["faults", "Faults"],
  ["changed", "Changed"],
];

/** Tell which jobs are found: every word stands in the name, the last change or its author. */
export function finder(words: string): (job: JobSummary) => boolean {
  const wanted = words.toLocaleLowerCase("en").split(/\s+/).filter(Boolean);
  return (job) => {
    const text = [job.name, job.said, job.author].join(" ").toLocaleLowerCase("en");
    return wanted.every((word) => text.includes(word));
  };
}

const names = new Intl.Collator("en-GB", { numeric: true, sensitivity: "base" });

/** Jobs sorted by a column: names from A on, all else the most or the latest first; what is alike as it came. */
export function inOrder(jobs: JobSummary[], { by, back }: Sorted): JobSummary[] {
  const key = (job: JobSummary): number => {
    // Whether a fault is among many warnings tells more than how many there are.
    if (by === "faults") return (job.faults ?? 0) * 1e6 + (job.warnings ?? 0);
    return by === "changed" ? Date.parse(job.changed_at) : by === "name" ? 0 : job[by];
  };
  const found = [...jobs].sort((a, b) => (by === "name" ? names.compare(a.name, b.name) : key(b) - key(a)));
  return back ? found.reverse() : found;
}
