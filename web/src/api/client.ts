import createClient from "openapi-fetch";
import { authorKept } from "./author";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];

export type { JobShown } from "./merging";
export type JobChange = Schemas["JobChange"];
export type FiguresPart = Schemas["FiguresPart"];
export type Job = Schemas["Job"];
export type Line = Schemas["Line"];
export type Section = Schemas["Section"];
export type Run = Schemas["Run"];
export type Row = Schemas["Row"];
export type RunFigures = Schemas["RunFigures"];
export type PieceFigures = Schemas["PieceFigures"];
export type RowFigures = Schemas["RowFigures"];
export type ItemFigures = Schemas["ItemFigures"];
export type RunSeen = Schemas["RunSeen"];
export type CutShown = Schemas["CutShown"];
export type KeptSection = Schemas["KeptSection"];
export type SupplierPage = Schemas["SupplierPage"];
export type KeptVersion = Schemas["KeptVersion"];
export type CornerFigures = Schemas["CornerFigures"];
export type LineFigures = Schemas["LineFigures"];
export type SectionFigures = Schemas["SectionFigures"];
export type CutRowFigures = Schemas["CutRowFigures"];
export type ScheduleLine = Schemas["ScheduleLine"];
export type CheckFigures = Schemas["CheckFigures"];
export type LibraryEntry = Schemas["LibraryEntry"];
export type SectionBody = Schemas["SectionBody"];
export type SectionFacts = Schemas["Facts"];
export type OutlineDrawn = Schemas["Outline"];
export type OutlineFault = Schemas["FaultEntry"];
export type OutlineThickened = Schemas["Thickened"];
export type Draft = Schemas["Draft"];
export type Typical = Schemas["Typical"];
export type TypicalFigures = Schemas["TypicalFigures"];
export type PlaceFigures = Schemas["PlaceFigures"];
export type PlaceOf = NonNullable<Typical["places"]>[number];
export type DrawingRead = Schemas["DrawingRead"];
export type LinesFound = Schemas["LinesFound"];
export type LineMet = Schemas["LineMet"];
export type Comparison = Schemas["Comparison"];
export type WalkShown = Schemas["WalkShown"];
export type Leg = Line["legs"][number];
export type LegFigures = Schemas["LegFigures"];
export type LineFault = Schemas["LineFaultFigures"];
export type Opening = Schemas["Opening"];
export type Mark = Schemas["Mark"];
export type Measure = Schemas["Measure"];
export type Picture = Schemas["Picture"];
export type BroughtFigures = Schemas["BroughtFigures"];
export type PictureFigures = Schemas["PictureFigures"];
export type Options = Schemas["Options"];
export type Joining = Schemas["Joining"];
export type TaskFigures = Schemas["TaskFigures"];
export type Figure = Schemas["Figure"];
export type PlaceFound = Schemas["PlaceFound"];
export type Simpler = Schemas["Simpler"];
export type JobSummary = Schemas["JobSummary"];
export type PastRevision = Schemas["PastRevision"];
export type Formats = Schemas["Formats"];
export type Units = Schemas["Units"];
export type Placing = Schemas["Placing"];
export type Edit = Schemas["EditRequest"]["edits"][number];
export type Between = Schemas["Between"];
/** A sentence: words, and lengths in mm that are written in the job's units. */
export type Sentence = (string | Schemas["SentenceLength"])[];
export type Point3 = [number, number, number];

/** What went wrong, as the service tells it (RFC 9457). */
export interface Problem {
  status: number;
  title: string;
  detail: string;
  code: string;
  place: string;
  changes: string[];
  current: number | null;
  /** Seconds after which it is worth trying again; null where trying again alone does not help. */
  again: number | null;
}

// How the lengths in a problem are written: in the units of the job that is open.
let writing: ((sentence: Sentence) => string) | null = null;

/** Say how sentences of the service are written; with nothing, as it writes them itself. */
export function writeProblemsWith(write: ((sentence: Sentence) => string) | null) {
  writing = write;
}

/** A name that nothing else has, for this window or for edits that may have to be sent twice. */
export function newName(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** How this window is known to the service, which tells it of the changes of others. */
export const windowName = newName();

export const api = createClient<paths>({ baseUrl: "", headers: { "X-Window": windowName } });
api.use({
  onRequest: ({ request }) => {
    const name = authorKept();
    // A header holds no letters but plain ones.
    if (name && request.method !== "GET") request.headers.set("X-Author", encodeURIComponent(name));
  },
});

export class Failed extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

const unreachable: Problem = {
  status: 0,
  title: "The service does not answer",
  detail: "The service does not answer.",
  code: "unreachable",
  place: "",
  changes: [],
  current: null,
  again: 2,
};

/**
 * Return the data of an answer, or throw `Failed` with the problem it tells. The type is named by
 * the caller because the client's own loosens pairs and triples of numbers to lists.
 */
export async function answer<T = unknown>(
  asked: Promise<{ data?: unknown; error?: unknown; response: Response }>,
): Promise<T> {
  let got: { data?: unknown; error?: unknown; response: Response };
  try {
    got = await asked;
  } catch {
    throw new Failed(unreachable);
  }
  if (got.response.ok) return got.data as T;
  const sentence = got.error as (Partial<Problem> & { sentence?: Sentence }) | undefined;
  throw new Failed({
    ...unreachable,
    again: null,
    title: `The service answered ${got.response.status}`,
    detail: `The service answered ${got.response.status}. Try again; if it persists, look at the service's log.`,
    ...(typeof sentence === "object" ? sentence : {}),
    ...(sentence?.sentence?.length && writing ? { detail: writing(sentence.sentence) } : {}),
    status: got.response.status,
    ...(got.response.headers.has("Retry-After") ? { again: Number(got.response.headers.get("Retry-After")) || 2 } : {}),
  });
}

export function problemOf(error: unknown): Problem {
  if (error instanceof Failed) return error.problem;
  return {
    ...unreachable,
    title: "Something failed",
    detail: error instanceof Error ? error.message : String(error),
    code: "failed",
    again: null,
  };
}
