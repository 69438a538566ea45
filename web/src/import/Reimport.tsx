/** A drawing brought in again: which of the job's lines it has again, moved, new or no longer, before it takes their place. */

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useContext, useMemo, useState } from "react";
import {
  answer,
  api,
  type Comparison,
  type Job,
  type Joining,
  type LineMet,
  type LinesFound,
  type Options,
} from "../api/client";
import { newTask } from "../api/tasks";
import { Pick, Tick } from "../ui/choices";
import { count, formatLength } from "../ui/figures";
import { JobId, useShown, useUnits } from "../window/job";
import type { ReadOptions } from "./reading";

const NOTHING = "";

/** The files that lines of a job came from, with how many each, the likeliest earlier issue of a file first. */
export function filesOf(job: Job, file: string): { name: string; lines: number; layers: Set<string>; like: boolean }[] {
  const found = new Map<string, { name: string; lines: number; layers: Set<string>; like: boolean }>();
  const stem = (name: string) =>
    name
      .toLowerCase()
      .replace(/\.[^.]*$/, "")
      .replace(/[\d\s_()-]+/g, "");
  for (const line of job.lines ?? []) {
    if (!line.source) continue;
    const { file: name, layer, also } = line.source;
    const known = found.get(name) ?? { name, lines: 0, layers: new Set<string>(), like: stem(name) === stem(file) };
    known.lines++;
    for (const one of [layer ?? "", ...(also ?? [])]) known.layers.add(one);
    found.set(name, known);
  }
  return [...found.values()].sort((a, b) => Number(b.like) - Number(a.like) || b.lines - a.lines);
}

/** The file that a file is most likely a newer issue of, if of any. */
export const likeliest = (job: Job, file: string) => filesOf(job, file).find((one) => one.like);

export interface Reimport {
  /** The file whose lines are compared with; null where lines are only added. */
  instead: string | null;
  setInstead: (file: string | null) => void;
  files: ReturnType<typeof filesOf>;
  met: LineMet[];
  /** Whether what became of a line is taken over. */
  takes: (met: LineMet) => boolean;
  toggle: (met: LineMet) => void;
  busy: boolean;
  error: unknown;
}

export const keyOfMet = (met: LineMet) => met.line ?? `new ${met.number}`;

export function useAgain(
  file: string,
  content: string,
  options: ReadOptions,
  joining: Joining,
  ready: boolean,
  changed: (layers: ReadonlySet<string> | null) => void,
): Reimport {
  const id = useContext(JobId);
  const shown = useShown();
  const files = useMemo(() => filesOf(shown.job, file), [shown.job, file]);
  const [instead, setInstead] = useState<string | null>(() => likeliest(shown.job, file)?.name ?? null);
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  const { data, error, isFetching } = useQuery({
    queryKey: ["compared", id, content, options, joining, instead, shown.revision],
    queryFn: ({ signal }) =>
      answer<Comparison>(
        api.POST("/api/jobs/{id}/imports/{content}/compare", {
          params: { path: { id, content } },
          body: { options: options as Options, joining, task: newTask(), instead: instead ?? "" },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: ready && instead !== null,
    retry: 0,
  });
  return {
    instead,
    setInstead: (name) => {
      setInstead(name);
      setTurned(new Set());
      changed(files.find((one) => one.name === name)?.layers ?? null);
    },
    files,
    met: (instead !== null && data?.lines) || [],
    // What was worked on here is left as it is unless somebody wants the drawing's.
    takes: (met) => (met.way === "moved" && met.worked_on) === turned.has(keyOfMet(met)),
    toggle: (met) => {
      const next = new Set(turned);
      if (!next.delete(keyOfMet(met))) next.add(keyOfMet(met));
      setTurned(next);
    },
    busy: isFetching,
    error: instead !== null ? error : null,
  };
}

/** Does this file take the place of one that was brought in before? */
export function InsteadOf({ again }: { again: Reimport }) {
  if (!again.files.length) return null;
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold text-sm">Is it a newer issue?</h3>
      <Pick
        label="Replaces"
        wide
        value={again.instead ?? NOTHING}
        ways={[
          [NOTHING, "No: add its lines"],
          ...again.files.map((one) => [one.name, `Yes: of ${one.name}`] as [string, string]),
        ]}
        choose={(name) => again.setInstead(name === NOTHING ? null : name)}
      />
    </>
  );
}

const groups: [LineMet["way"], string, string][] = [
  ["moved", "Moved", "text-wax-deep"],
  ["new", "New", "text-chalk"],
  ["gone", "Gone", "text-red"],
];

/** What taking a file's place does, in a few words. */
export function inWords(again: Reimport): string {
  const taken = (way: LineMet["way"]) => again.met.filter((met) => met.way === way && again.takes(met)).length;
  const parts = groups
    .map(([way]) => [taken(way), way] as const)
    .filter(([number]) => number > 0)
    .map(([number, way]) => `${number} ${way}`);
  return parts.join(", ") || "nothing changes";
}

export function WhatChanged({
  again,
  pointed,
  point,
}: {
  again: Reimport;
  pointed: string | null;
  point: (met: string | null) => void;
}) {
  const units = useUnits();
  const same = again.met.filter((met) => met.way === "same");
  const kept = same.filter((met) => met.worked_on).length;
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold text-sm">What has changed?</h3>
      <p className="text-pencil text-sm">
        {count(same.length, "line")} {same.length === 1 ? "is" : "are"} drawn as before
        {kept > 0 && `, ${kept} of them worked on here: left as ${kept === 1 ? "it is" : "they are"}`}. Lines keep their
        names, runs, rows, openings and marks.
      </p>
      {groups.map(([way, title, tone]) => {
        const some = again.met.filter((met) => met.way === way);
        if (!some.length) return null;
        return (
          <fieldset key={way} className="mt-2">
            <legend className={`mb-0.5 font-medium text-sm ${tone}`}>
              {title} <span className="figure">{some.length}</span>
            </legend>
            {some.slice(0, 300).map((met) => (
              <div
                key={keyOfMet(met)}
                className={pointed === keyOfMet(met) ? "bg-chalk-wash" : ""}
                onPointerEnter={() => point(keyOfMet(met))}
                onPointerLeave={() => point(null)}
              >
                <div className="flex items-center justify-between gap-2">
                  <Tick label={met.name} checked={again.takes(met)} set={() => again.toggle(met)} />
                  {way === "moved" && (
                    <span className="figure whitespace-nowrap text-pencil text-sm">
                      by up to {formatLength(met.by, units)}
                    </span>
                  )}
                </div>
                <Standing met={met} takes={again.takes(met)} />
              </div>
            ))}
            {some.length > 300 && <p className="text-pencil text-sm">… and {some.length - 300} more.</p>}
          </fieldset>
        );
      })}
    </>
  );
}

function Standing({ met, takes }: { met: LineMet; takes: boolean }) {
  const names =
    met.stands.length > 3
      ? `${met.stands.slice(0, 2).join(", ")} and ${met.stands.length - 2} more`
      : met.stands.join(", ");
  const words: string[] = [];
  if (met.way === "moved" && met.worked_on)
    words.push(takes ? "worked on here since: that is lost" : "worked on here since: left as it is");
  if (met.way === "gone" && names) words.push(takes ? `${names} on it: it stays, with a check` : "left as it is");
  else if (met.way === "gone") words.push(takes ? "nothing stands on it: it goes" : "left as it is");
  else if (met.way === "moved" && names && takes) words.push(`with ${names}`);
  return words.length ? <p className="ml-6 text-pencil text-sm">{words.join("; ")}</p> : null;
}

export type Overlay = {
  key: string;
  d: string;
  tone: string;
  dashed: boolean;
  strong: boolean;
  faint: boolean;
  met: LineMet;
};

/** The lines of both issues over one another, as paths in the preview's coordinates. */
export function overlay(again: Reimport, found: LinesFound | undefined, origin: readonly number[]): Overlay[] {
  if (!found) return [];
  const [dx = 0, dy = 0] = [0, 1].map((axis) => (origin[axis] ?? 0) - (found.origin[axis] ?? 0));
  const numbers = new Map(found.lines.map((line) => [line.number, line]));
  const path = (points: readonly (readonly number[])[], closed: boolean) =>
    points.length ? `M${points.map((one) => one.join(" ")).join("L")}${closed ? "Z" : ""}` : "";
  const out: Overlay[] = [];
  for (const met of again.met) {
    const takes = again.takes(met);
    const now = met.number === null ? undefined : numbers.get(met.number);
    const key = keyOfMet(met);
    const before = met.drawn.map(([x, y]) => [x + dx, y + dy]);
    if (before.length)
      out.push({
        key: `${key} before`,
        d: path(before, met.closed),
        tone: met.way === "gone" ? "var(--color-red)" : "var(--color-pencil)",
        dashed: takes,
        strong: !takes || met.way === "gone",
        faint: false,
        met,
      });
    if (now) {
      const tone =
        met.way === "moved" ? "var(--color-wax)" : met.way === "new" ? "var(--color-chalk)" : "var(--color-faint)";
      out.push({
        key,
        d: path(now.points, now.closed),
        tone,
        dashed: !takes,
        strong: met.way !== "same" && takes,
        faint: met.way === "same" || !takes,
        met,
      });
    }
  }
  // What has changed lies over what has not.
  return out.sort((a, b) => Number(b.met.way === "same") - Number(a.met.way === "same"));
}
