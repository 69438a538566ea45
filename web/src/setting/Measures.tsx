/** The measures of the job: named lengths that fields and walks can be written with. */

import { useQuery } from "@tanstack/react-query";
import { useContext, useState } from "react";
import type { Edit, Measure } from "../api/client";
import { answer, api } from "../api/client";
import { Button, Words } from "../ui/choices";
import { formatLength } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { JobId, useChanges, useShown, useUnits } from "../window/job";

interface Row {
  /** Its name before, of one that was there. */
  was: string | null;
  name: string;
  text: string;
}

const empty: Row = { was: null, name: "", text: "" };

export function Measures({ close }: { close: () => void }) {
  const shown = useShown();
  const { edit } = useChanges();
  // As they were when the page was opened.
  const [before] = useState<Measure[]>(shown.job.measures ?? []);
  const [rows, setRows] = useState<Row[]>(
    before.length ? before.map((one) => ({ was: one.name, name: one.name, text: one.text })) : [empty],
  );
  const [wrong, setWrong] = useState<{ detail: string; index: number | null } | null>(null);
  const uses = (name: string) => {
    const word = name.trim().toLowerCase();
    const inFields = shown.job.formulas?.filter((one) => one.text.toLowerCase().includes(word)).length ?? 0;
    const inWalks =
      shown.job.lines?.filter((line) => line.made?.kind === "walk" && line.made.text.toLowerCase().includes(word))
        .length ?? 0;
    return word ? inFields + inWalks : 0;
  };
  const change = (index: number, part: Partial<Row>) =>
    setRows(rows.map((row, i) => (i === index ? { ...row, ...part } : row)));
  const save = async () => {
    // Only what was changed is said, so that what others change meanwhile stays.
    const kept = rows.filter((row) => row.name.trim() || row.text.trim());
    const gone = before.filter((old) => !kept.some((row) => row.was === old.name));
    const measures = [
      ...gone.map((old) => ({ was: old.name, remove: true })),
      ...kept.flatMap((row): object[] => {
        const old = before.find((one) => one.name === row.was);
        if (!old) return [{ name: row.name, text: row.text }];
        const part = {
          ...(row.name === old.name ? {} : { name: row.name }),
          ...(row.text === old.text ? {} : { text: row.text }),
        };
        return Object.keys(part).length ? [{ was: old.name, ...part }] : [];
      }),
    ];
    if (!measures.length) return close();
    const problem = await edit([{ kind: "set_measures", measures } as Edit]);
    if (!problem) return close();
    const found = rows.findIndex((row) => row.name.trim() && problem.detail.includes(row.name.trim()));
    setWrong({ detail: problem.detail, index: found >= 0 ? found : null });
  };
  const field = "h-7 rounded-[3px] border bg-paper px-2";
  return (
    <Modal title="Measures of the job" close={close} wide>
      <p className="mb-3 text-pencil text-sm">
        A measure is a named length. Write it in any length field or walk, with sums, factors and shares: “hall width /
        2 - 18”. Change it here, and all that is written with it follows.
      </p>
      <div className="grid grid-cols-[200px_1fr_110px_90px_40px] items-center gap-x-3 gap-y-1.5">
        <span className="text-pencil text-sm">Name</span>
        <span className="text-pencil text-sm">Is</span>
        <span className="text-right text-pencil text-sm">Value</span>
        <span className="text-right text-pencil text-sm">Used in</span>
        <span />
        {rows.map((row, index) => (
          <div key={index} className="contents">
            <input
              aria-label={`Name of measure ${index + 1}`}
              className={`${field} ${wrong?.index === index ? "border-red" : "border-edge"}`}
              value={row.name}
              placeholder="hall width"
              spellCheck={false}
              onChange={(event) => change(index, { name: event.target.value })}
            />
            <input
              aria-label={`What measure ${index + 1} is`}
              className={`figure ${field} ${wrong?.index === index ? "border-red" : "border-edge"}`}
              value={row.text}
              placeholder="6 m"
              spellCheck={false}
              onChange={(event) => change(index, { text: event.target.value })}
              onKeyDown={(event) => event.key === "Enter" && void save()}
            />
            <Worth text={row.text} />
            <span className="figure text-right text-pencil text-sm">{uses(row.name) || "–"}</span>
            <Words
              label={`Remove measure ${row.name || index + 1}`}
              onClick={() => setRows(rows.filter((_, i) => i !== index))}
            >
              Remove
            </Words>
          </div>
        ))}
      </div>
      <p className="mt-2">
        <Words onClick={() => setRows([...rows, empty])}>Add a measure</Words>
      </p>
      {wrong && (
        <p role="alert" className="mt-2 text-red text-sm">
          {wrong.detail}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong onClick={() => void save()}>
          Set the measures
        </Button>
      </div>
    </Modal>
  );
}

/** What a measure comes out as, with the job's measures as they are saved. */
function Worth({ text }: { text: string }) {
  const job = useContext(JobId);
  const units = useUnits();
  const { revision } = useShown();
  const { data } = useQuery({
    queryKey: ["worth", job, revision, text, units.system],
    queryFn: () =>
      answer<{ mm: number }>(api.POST("/api/lengths", { body: { text, system: units.system ?? "mm", job } })),
    enabled: text.trim() !== "",
    retry: 0,
  });
  return <span className="figure text-right text-sm">{text.trim() && data ? formatLength(data.mm, units) : ""}</span>;
}
