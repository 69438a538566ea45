/** What a job is handed over as: a file for each, and the list on paper as it is shown. */
import { useContext, useEffect, useRef, useState } from "react";
import { useFormats } from "../api/formats";
import { newTask, stopTask } from "../api/tasks";
import { useColumns } from "../cutting/Columns";
import { Button, Words } from "../ui/choices";
import { Going } from "../ui/Going";
import { Modal } from "../ui/Modal";
import { JobId, useShown } from "./job";

/** Papers as they are called. */
const PAPERS: Record<string, string> = { a4: "A4", a3: "A3", letter: "letter", tabloid: "tabloid" };

/** A request for a list on paper, without the columns that the list in the window leaves out. */
function query(without: string[], more: Record<string, string> = {}): string {
  const asked = new URLSearchParams([...Object.entries(more), ...without.map((one) => ["without", one])]);
  return asked.size ? `?${asked}` : "";
}

export function HandOver({ close }: { close: () => void }) {
  const id = useContext(JobId);
  const shown = useShown();
  const faults = shown.checks.filter((check) => check.severity === "fault").length;
  const formats = useFormats();
  const left = useColumns((state) => state.left);
  const files = [
    ...(formats?.exports ?? []),
    { key: "job.ribbon.json", title: "Job file", about: "the whole job, to be opened again", papers: [], columns: [] },
  ];
  return (
    <Modal title="Hand over" close={close}>
      {faults > 0 && (
        <p className="mb-3 border-red border-l-[3px] bg-red-wash px-3 py-2 text-sm">
          <b className="text-red">!</b>{" "}
          {faults === 1
            ? "One fault is still open in this job; it is"
            : `${faults} faults are still open in this job; they are`}{" "}
          listed under Cutting in the job sheet.
        </p>
      )}
      <ul className="mb-4 divide-y divide-rule border-rule border-y">
        {files.map(({ key, title, about, papers, columns }) => (
          <li key={key} className="hover:bg-chalk-wash">
            <a
              href={`/api/jobs/${id}/${key}${columns.length ? query(columns.filter((one) => left.some((gone) => gone === one))) : ""}`}
              download
              className="grid grid-cols-[104px_1fr] items-baseline px-1 pt-2 pb-2"
            >
              <span className="font-medium text-chalk-deep underline underline-offset-2">{title}</span>
              <span className="text-pencil text-sm">{about}</span>
            </a>
            {papers.length > 0 && <OnPaper file={key} papers={papers} columns={columns} />}
          </li>
        ))}
      </ul>
      <div className="flex justify-end">
        <Button onClick={close}>Close</Button>
      </div>
    </Modal>
  );
}

/** The papers that a list is printed on; one of thousands of pieces takes seconds, in which it can be given up. */
function OnPaper({ file, papers, columns }: { file: string; papers: string[]; columns: string[] }) {
  const id = useContext(JobId);
  const shown = useShown();
  const left = useColumns((state) => state.left);
  const [writing, setWriting] = useState<{ paper: string; task: string } | null>(null);
  const [wrong, setWrong] = useState("");
  const giveUp = useRef<AbortController | null>(null);
  const stop = () => giveUp.current?.abort();
  useEffect(() => () => giveUp.current?.abort(), []);
  const write = async (paper: string) => {
    stop();
    const asked = new AbortController();
    const task = newTask();
    asked.signal.addEventListener("abort", () => stopTask(task));
    giveUp.current = asked;
    setWrong("");
    setWriting({ paper, task });
    try {
      const without = columns.filter((one) => left.some((gone) => gone === one));
      const got = await fetch(`/api/jobs/${id}/${file}${query(without, { paper, task })}`, { signal: asked.signal });
      if (!got.ok) throw new Error((await got.json().catch(() => null))?.detail ?? "The service gave no answer.");
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await got.blob());
      link.download = `${shown.job.name}, ${PAPERS[paper] ?? paper}.pdf`;
      link.click();
      URL.revokeObjectURL(link.href);
    } catch (error) {
      if (!asked.signal.aborted) setWrong(`It could not be written. ${error instanceof Error ? error.message : ""}`);
    }
    if (giveUp.current === asked) setWriting(null);
  };
  return (
    <div className="-mt-1 pb-2 pl-[108px] text-sm">
      {papers.map((paper, i) => (
        <span key={paper}>
          {i > 0 && " · "}
          <Words onClick={() => void write(paper)}>{PAPERS[paper] ?? paper}</Words>
        </span>
      ))}
      {writing && (
        <div className="mt-1">
          <Going
            task={writing.task}
            words={`Writing ${shown.totals.job.pieces} pieces on ${PAPERS[writing.paper] ?? writing.paper}`}
            stop={() => {
              stop();
              setWriting(null);
            }}
          />
        </div>
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-red">
          {wrong}
        </p>
      )}
    </div>
  );
}
