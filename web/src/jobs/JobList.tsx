/** The list of jobs: open, start, copy, rename, put away, bring back, open a job file. */
import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, type JobSummary, type Problem, problemOf } from "../api/client";
import { go } from "../ui/address";
import { Button, Words } from "../ui/choices";
import { count } from "../ui/figures";
import { Wordmark } from "../ui/Wordmark";
import { useEvents } from "../window/following";

const LIST = { queryKey: ["jobs"] };
let waiting = false;
/** Ask for the list anew: what is on its way already may have been read before the change that is told of. */
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

  const shown = (jobs.data ?? []).filter((job) => job.put_away === away);
  const putAway = (jobs.data ?? []).filter((job) => job.put_away).length;
  return (
    <div className="h-full overflow-auto">
      <header className="flex h-11 items-center border-rule border-b px-4">
        <Wordmark />
      </header>
      <main className="mx-auto max-w-[940px] px-6 py-8">
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
        <div className="mt-6 rounded-[4px] border border-rule bg-paper">
          <div className="grid grid-cols-[1fr_70px_70px_70px_120px_190px] gap-2 border-ink border-b px-4 py-2 text-pencil text-sm">
            <span>Job</span>
            <span className="text-right">Lines</span>
            <span className="text-right">Runs</span>
            <span className="text-right">Rows</span>
            <span className="text-right">Last changed</span>
            <span />
          </div>
          {shown.map((job) => (
            <JobLine key={job.id} job={job} attempt={attempt} />
          ))}
          {jobs.isLoading && <p className="px-4 py-6 text-pencil">Fetching the jobs …</p>}
          {jobs.data && shown.length === 0 && (
            <p className="px-4 py-6 text-pencil">
              {away
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

function JobLine({ job, attempt }: { job: JobSummary; attempt: (work: () => Promise<unknown>) => Promise<void> }) {
  const [name, setName] = useState<string | null>(null);
  const here = { params: { path: { id: job.id } } };
  const rename = () => {
    const wanted = name?.trim();
    setName(null);
    if (!wanted || wanted === job.name) return;
    void attempt(async () => {
      const { base } = await answer<{ base: number }>(api.GET("/api/jobs/{id}/revision", here));
      await answer(
        api.POST("/api/jobs/{id}/edits", {
          ...here,
          body: { base, edits: [{ kind: "rename_job", name: wanted }], confirmed: false },
        }),
      );
    });
  };
  return (
    <div className="grid grid-cols-[1fr_70px_70px_70px_120px_190px] items-center gap-2 border-rule border-b px-4 py-2 last:border-b-0 hover:bg-chalk-wash">
      {name === null ? (
        <a
          href={`/job/${job.id}`}
          className="truncate font-medium text-base hover:text-chalk-deep"
          onClick={(event) => {
            if (event.metaKey || event.ctrlKey || event.shiftKey) return;
            event.preventDefault();
            go(`/job/${job.id}`);
          }}
        >
          {job.name}
        </a>
      ) : (
        <input
          aria-label={`New name of ${job.name}`}
          // biome-ignore lint/a11y/noAutofocus: the field appears because its button was pressed
          autoFocus
          maxLength={120}
          className="h-7 rounded-[3px] border border-edge bg-paper px-2"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onBlur={rename}
          onKeyDown={(event) => {
            if (event.key === "Enter") rename();
            if (event.key === "Escape") setName(null);
          }}
        />
      )}
      <span className="figure text-right">{job.lines}</span>
      <span className="figure text-right">{job.runs}</span>
      <span className="figure text-right">{job.rows}</span>
      <span className="figure text-right text-pencil">{when(job.changed_at)}</span>
      <span className="flex justify-end gap-3">
        {!job.put_away && <Words onClick={() => setName(job.name)}>Rename</Words>}
        {!job.put_away && (
          <Words onClick={() => void attempt(() => answer(api.POST("/api/jobs/{id}/copy", here)))}>Copy</Words>
        )}
        <Words
          onClick={() =>
            void attempt(() =>
              answer(api.PUT("/api/jobs/{id}/put-away", { ...here, body: { put_away: !job.put_away } })),
            )
          }
        >
          {job.put_away ? "Restore" : "Archive"}
        </Words>
      </span>
    </div>
  );
}

function when(time: string): string {
  const date = new Date(time);
  const today = date.toDateString() === new Date().toDateString();
  return today
    ? date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
    : date.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}
