/** The rows of the cutting list: fetched by their keys while the list is looked at, those that changed alone. */
import { useContext, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { answer, api, type CutRowFigures, type Problem, problemOf } from "../api/client";
import { JobId, useShown } from "../window/job";
import { type Listed, NONE, type Rows } from "./listed";

/** As many as one request may ask for, and as the first does, so that a sheet full of rows is there soon. */
const AT_ONCE = 64;
const AT_FIRST = 6;
/** The number of runs and typicals whose rows are kept. */
const MOST_KEPT = 10_000;

/** Rows by key. */
const known = new Map<string, Rows>();

function keep(key: string, rows: Rows) {
  known.delete(key);
  known.set(key, rows);
  for (const oldest of known.keys()) {
    if (known.size <= MOST_KEPT) break;
    known.delete(oldest);
  }
}

export interface Listing {
  listed: Listed;
  /** How many runs and typicals have no rows yet. */
  missing: number;
  /** Whether some have rows of before. */
  stale: boolean;
  /** Why they do not come. */
  problem: Problem | null;
  again: () => void;
}

/** The job with its rows; until new ones have come, those before. */
export function useListing(): Listing {
  const id = useContext(JobId);
  const shown = useShown();
  const [come, tell] = useReducer((count: number) => count + 1, 0);
  const [failed, setFailed] = useState<{ asked: string; problem: Problem } | null>(null);
  const before = useRef<Record<string, Rows>>({});
  // Keys of another time, a look at an edit that was not made say, which the service does not know at this revision.
  const gone = useRef<{ revision: number; keys: Set<string> }>({ revision: 0, keys: new Set() });
  const { cutting, missing, wanted } = useMemo(() => {
    if (gone.current.revision !== shown.revision) gone.current = { revision: shown.revision, keys: new Set() };
    const wanted: string[] = [];
    let missing = 0;
    const cutting: Record<string, Rows> = {};
    for (const [thing, key] of Object.entries(shown.cuts)) {
      const rows = known.get(key);
      const old = before.current[thing];
      cutting[thing] = rows ?? old ?? NONE;
      if (rows || gone.current.keys.has(key)) continue;
      wanted.push(key);
      if (!old || old === NONE) missing += 1;
    }
    before.current = cutting;
    return { cutting, missing, wanted };
  }, [shown.cuts, shown.revision, come]);
  const none = missing > 0 && missing === Object.keys(shown.cuts).length;
  const asked = wanted.slice(0, none ? AT_FIRST : AT_ONCE).join(",");
  // What is asked for after a failure is other rows, and is fetched.
  const problem = failed?.asked === asked ? failed.problem : null;
  useEffect(() => {
    if (!asked || problem) return;
    let over = false;
    const at = gone.current;
    void answer<Record<string, CutRowFigures[]>>(
      api.GET("/api/jobs/{id}/cutting", { params: { path: { id }, query: { keys: asked } } }),
    ).then(
      (rows) => {
        for (const key of asked.split(",")) {
          const found = rows[key];
          if (found) keep(key, found);
          else at.keys.add(key);
        }
        if (!over) tell();
      },
      (error) => {
        if (!over) setFailed({ asked, problem: problemOf(error) });
      },
    );
    return () => {
      over = true;
    };
  }, [asked, id, problem]);
  const listed = useMemo(() => ({ ...shown, cutting }), [shown, cutting]);
  return { listed, missing, stale: wanted.length > missing, problem, again: () => setFailed(null) };
}
