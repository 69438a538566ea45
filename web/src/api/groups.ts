/** The groups of things that a job holds, one for each kind, in the order of the document. */
export const GROUPS = [
  "lines",
  "sections",
  "runs",
  "rows",
  "pictures",
  "rules",
  "row_rules",
  "drafts",
  "typicals",
] as const;
export type Group = (typeof GROUPS)[number];
