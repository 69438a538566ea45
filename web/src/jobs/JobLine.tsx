/** A job in the list: what it looks like, what it holds, and what was done last. */
import { useState } from "react";
import { answer, api, type JobSummary } from "../api/client";
import { go } from "../ui/address";
import { Words } from "../ui/choices";
import { count, grouped } from "../ui/figures";
import { when } from "../ui/when";

/** The columns of the list, in its head and in every line. */
export const COLUMNS = "grid grid-cols-[100px_minmax(0,1fr)_52px_48px_48px_84px_80px_166px] gap-x-3";

export function JobLine({
  job,
  attempt,
}: {
  job: JobSummary;
  attempt: (work: () => Promise<unknown>) => Promise<void>;
}) {
  const [name, setName] = useState<string | null>(null);
  const here = { params: { path: { id: job.id } } };
  const opening = (event: React.MouseEvent) => {
    if (event.metaKey || event.ctrlKey || event.shiftKey) return;
    event.preventDefault();
    go(`/job/${job.id}`);
  };
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
    <div className={`${COLUMNS} items-center border-rule border-b px-4 py-2 last:border-b-0 hover:bg-chalk-wash`}>
      <div onClick={opening} className="cursor-pointer">
        {job.lines > 0 ? (
          <img
            src={`/api/jobs/${job.id}/plan.svg?revision=${job.revision}`}
            alt=""
            loading="lazy"
            width={96}
            height={60}
            className="rounded-[3px] border border-rule bg-white"
          />
        ) : (
          <span className="grid h-[62px] w-[98px] place-items-center rounded-[3px] border border-rule border-dashed text-pencil text-xs">
            no lines yet
          </span>
        )}
      </div>
      <div className="min-w-0">
        {name === null ? (
          <a
            href={`/job/${job.id}`}
            className="block truncate font-medium text-base hover:text-chalk-deep"
            onClick={opening}
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
        <p className="truncate text-pencil text-sm" title={job.said}>
          {job.author && <span className="text-ink">{job.author} </span>}
          {job.said}
        </p>
      </div>
      {[job.lines, job.runs, job.rows].map((figure, index) => (
        <span key={index} className="figure text-right">
          {grouped(String(figure))}
        </span>
      ))}
      <Faults job={job} />
      <span className="figure text-right text-pencil">{when(job.changed_at)}</span>
      <span className="flex flex-wrap justify-end gap-x-3">
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

function Faults({ job: { faults, warnings, runs, rows } }: { job: JobSummary }) {
  if (faults)
    return (
      <span
        className="figure text-right font-semibold text-red"
        title={warnings ? count(warnings, "warning") : undefined}
      >
        ! {count(faults, "fault")}
      </span>
    );
  if (warnings) return <span className="figure text-right text-wax-deep">? {count(warnings, "warning")}</span>;
  return (
    <span
      className="figure text-right text-pencil"
      title={faults === null ? "Counted when the job is next opened" : undefined}
    >
      {faults === null && runs + rows > 0 ? "…" : "none"}
    </span>
  );
}
