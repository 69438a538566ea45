/** The list of jobs: open, start, copy, rename, put away, bring back, open a job file. */
import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { authorKept, keepAuthor } from "../api/author";
import { answer, api, type JobSummary, type Problem, problemOf } from "../api/client";
import { go } from "../ui/address";
import { Button, Words } from "../ui/choices";
import { count } from "../ui/figures";
import { Wordmark } from "../ui/Wordmark";
import { useEvents } from "../window/following";
import { COLUMNS, JobLine } from "./JobLine";
import { columns, finder, inOrder, type Sorted } from "./sorting";

const LIST = { queryKey: ["jobs"] };
let waiting = false;
/** Ask for the list anew: what is on its way already may have been read before the change that is reported. */
async function asked(client: QueryClient) {
  if (waiting) return;
  if (client.isFetching(LIST)) {
    waiting = true;
    await client.refetchQueries(LIST, { cancelRefetch: false });
    waiting = false;
  }
  await client.invalidateQueries(LIST);
}
export function JobList() {
  const client = useQueryClient();
  useEvents(
    "/api/events",
    useCallback(() => void asked(client), [client]),
  );
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: () => answer<JobSummary[]>(api.GET("/api/jobs")), retry: 1 });
  const [problem, setProblem] = useState<Problem | null>(null);
  const [away, setAway] = useState(false);
  const [name, setName] = useState("");
  const [words, setWords] = useState("");
  const [sorted, setSorted] = useState<Sorted>({ by: "changed", back: false });
  const file = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = "Jobs · Slow Ribbon";
  }, []);

  const attempt = async (work: () => Promise<unknown>) => {
    try {
      setProblem(null);
      await work();
      await asked(client);
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  const start = () =>
    attempt(async () => {
      const made = await answer<{ id: string }>(api.POST("/api/jobs", { body: { name } }));
      go(`/job/${made.id}`);
    });
  const openFile = (chosen: File | undefined) =>
    chosen &&
    attempt(async () => {
      const text = await chosen.text();
      const made = await answer<{ id: string }>(
        // A job file goes as it is: the service checks it as a whole.
        api.POST("/api/jobs/file", {
          body: text as never,
          bodySerializer: (body) => body,
          headers: { "Content-Type": "application/json" },
        }),
      );
      go(`/job/${made.id}`);
    });

  const of = (jobs.data ?? []).filter((job) => job.put_away === away);
  const shown = inOrder(of.filter(finder(words)), sorted);
  const putAway = (jobs.data ?? []).filter((job) => job.put_away).length;
  return (
    <div className="h-full overflow-auto">
      <header className="flex h-11 items-center border-rule border-b px-4">
        <Wordmark />
        <span className="flex-1" />
        <Signing />
      </header>
      <main className="mx-auto max-w-[1040px] px-6 py-8">
        <div className="flex items-end justify-between">
          <div>
            <h1 className="font-semibold text-xl">{away ? "Archived jobs" : "Jobs"}</h1>
            <p className="text-pencil">Lines, the sections that run along them, and what is cut from them.</p>
          </div>
          <form
            className="flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (name.trim()) void start();
            }}
          >
            <input
              aria-label="Name of a new job"
              placeholder="Name of a new job"
              maxLength={120}
              value={name}
              onChange={(event) => setName(event.target.value)}
              className="h-7 w-52 rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
            />
            <Button strong type="submit" disabled={!name.trim()}>
              Start a job
            </Button>
            <Button onClick={() => file.current?.click()}>Open a job file</Button>
            <input
              ref={file}
              type="file"
              accept=".json"
              className="hidden"
              aria-label="Job file"
              onChange={(event) => {
                void openFile(event.target.files?.[0]);
                event.target.value = "";
              }}
            />
          </form>
        </div>
        {(problem || jobs.error) && (
          <p role="alert" className="mt-4 border-red border-l-[3px] bg-red-wash px-3 py-2 text-sm">
            {(problem ?? problemOf(jobs.error)).detail}{" "}
            {jobs.error && <Words onClick={() => void jobs.refetch()}>Try again</Words>}
          </p>
        )}
        {of.length > 5 && (
          <input
            aria-label="Find a job"
            placeholder="Find a job by its name, its last change or who made it"
            value={words}
            onChange={(event) => setWords(event.target.value)}
            className="mt-5 h-7 w-[420px] rounded-[3px] border border-edge bg-paper px-2 placeholder:text-pencil"
          />
        )}
        <div className="mt-4 rounded-[4px] border border-rule bg-paper">
          <div
            className={`${COLUMNS} sticky top-0 z-10 rounded-t-[4px] border-ink border-b bg-paper px-4 py-2 text-sm`}
          >
            <span />
            {columns.map(([by, name]) => (
              <Sorter key={by} by={by} name={name} sorted={sorted} sort={setSorted} left={by === "name"} />
            ))}
            <span />
          </div>
          {shown.map((job) => (
            <JobLine key={job.id} job={job} attempt={attempt} />
          ))}
          {jobs.isLoading && <p className="px-4 py-6 text-pencil">Fetching the jobs …</p>}
          {jobs.data && shown.length === 0 && (
            <p className="px-4 py-6 text-pencil">
              {words.trim()
                ? "No job matches these words."
                : away
                  ? "No job is archived."
                  : "No jobs yet. Give a new one a name above and start it, or open a job file."}
            </p>
          )}
        </div>
        <p className="mt-3 text-right">
          {away ? (
            <Words onClick={() => setAway(false)}>Back to the jobs</Words>
          ) : (
            putAway > 0 && <Words onClick={() => setAway(true)}>{count(putAway, "job is", "jobs are")} archived</Words>
          )}
        </p>
      </main>
    </div>
  );
}

/** The name that this browser's changes are signed with. */
function Signing() {
  const [name, setName] = useState(authorKept);
  return (
    <label className="flex items-center gap-2 text-pencil text-sm">
      Changes are signed
      <input
        value={name}
        maxLength={60}
        placeholder="your name"
        onChange={(event) => setName(event.target.value)}
        onBlur={() => keepAuthor(name)}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        className="h-7 w-36 rounded-[3px] border border-edge bg-paper px-2 text-ink placeholder:text-pencil"
      />
    </label>
  );
}

/** The head of a column: a click sorts by it, another the other way round. */
function Sorter({
  by,
  name,
  sorted,
  sort,
  left,
}: {
  by: Sorted["by"];
  name: string;
  sorted: Sorted;
  sort: (sorted: Sorted) => void;
  left: boolean;
}) {
  const on = sorted.by === by;
  return (
    <button
      type="button"
      aria-pressed={on}
      title={`Sort by ${name.toLowerCase()}`}
      onClick={() => sort({ by, back: on && !sorted.back })}
      className={`cursor-pointer whitespace-nowrap hover:text-ink ${left ? "text-left" : "text-right"} ${on ? "font-medium text-ink" : "text-pencil"}`}
    >
      {name}
      {on && <span aria-hidden> {sorted.back ? "▴" : "▾"}</span>}
    </button>
  );
}
