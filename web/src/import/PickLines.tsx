/** Choosing among the lines that joining makes of a file: layers, tolerance, ways on at junctions, lines. */

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useContext, useState } from "react";
import {
  answer,
  api,
  type DrawingRead,
  type JobChange,
  type Joining,
  type LinesFound,
  newName,
  type Options,
  type Problem,
  problemOf,
} from "../api/client";
import { newTask } from "../api/tasks";
import { Button, Choice, Tick, Words } from "../ui/choices";
import { figuresTaken, LengthField } from "../ui/fields";
import { count, formatLength } from "../ui/figures";
import { Going } from "../ui/Going";
import { JobId, useChanges, useSentence, useShown, useUnits } from "../window/job";
import { usePart, useWindow } from "../window/store";
import { HowRead } from "./HowRead";
import { heightWords, WhatJoiningDid } from "./JoiningNotes";
import { Layers } from "./Layers";
import { FacesList, PointingOrKind, usePointing } from "./Pointing";
import { Preview } from "./Preview";
import { InsteadOf, inWords, likeliest, overlay, useAgain, WhatChanged } from "./Reimport";
import { findLines, type ReadOptions } from "./reading";
import { type Heights, SliceChoice, within } from "./Slice";
import { TableOfPoints } from "./TableOfPoints";

const PreviewSolid = lazy(() => import("./PreviewSolid").then((part) => ({ default: part.PreviewSolid })));

/** Lines that one edit adds; the service has the same limit. */
const MOST_LINES = 50_000;

type Found = LinesFound["lines"][number];

export function PickLines({
  drawing,
  options,
  read,
  reading,
  problem: unread,
  other,
}: {
  drawing: DrawingRead;
  options: ReadOptions;
  read: (options: ReadOptions) => void;
  reading: string | null;
  problem: Problem | null;
  other: () => void;
}) {
  const id = useContext(JobId);
  const shown = useShown();
  const units = useUnits();
  const tell = useSentence();
  const { take } = useChanges();
  const { show, set } = usePart("show", "set");
  const names = drawing.layers.map((layer) => layer.name);
  // Layers that are off or frozen in the drawing are left out at first, and those chosen stay so when it is read again.
  const hidden = drawing.layers.filter((layer) => layer.hidden).map((layer) => layer.name);
  // Of a newer issue of a drawing the layers are wanted that the lines came from; in a model each thing is one, new ones too.
  const droppedFor = (of: ReadonlySet<string> | null) => {
    const known = of && ["dxf", "svg"].includes(drawing.kind) ? names.filter((name) => of.has(name)) : [];
    return new Set(known.length ? names.filter((name) => !known.includes(name)) : hidden);
  };
  const [dropped, setDropped] = useState(() => droppedFor(likeliest(shown.job, drawing.file)?.layers ?? null));
  const [ways, setWays] = useState<Joining["ways"]>({});
  const pointing = usePointing(drawing, options, () => setWays({}));
  const { kinds, loops } = pointing;
  const layers = kinds.filter((name) => !dropped.has(name));
  const { faces } = drawing;
  const canTurn = faces !== null || drawing.rises;
  const [solid, setSolid] = useState(faces !== null);
  const [slice, setSlice] = useState<Heights | null>(null);
  const [tolerance, setTolerance] = useState(1);
  const [level, setLevel] = useState<number | null>(null);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [pointed, setPointed] = useState<number | null>(null);
  const [pointedMet, setPointedMet] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const [task, setTask] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const joining: Joining = { tolerance, layers, ways, level, loops };
  const some = layers.length > 0 || loops.length > 0;
  const {
    data: found,
    error,
    isFetching,
    refetch,
  } = useQuery({
    queryKey: ["found", drawing.content, options, joining],
    queryFn: async ({ signal }) => {
      const name = newTask();
      setTask(name);
      try {
        return await findLines(drawing.content, options, joining, name, signal);
      } finally {
        setTask((old) => (old === name ? null : old));
      }
    },
    placeholderData: keepPreviousData,
    enabled: some && !reading,
    retry: 0,
  });
  const again = useAgain(drawing.file, drawing.content, options, joining, some && !reading, (of) =>
    setDropped(droppedFor(of)),
  );
  const lines = some ? (found?.lines ?? []) : [];
  // Lines keep their choice when the tolerance changes, by what they are made of: their first point and layer.
  const keyOf = (line: Found) => `${line.layer}:${line.points[0]?.join()}`;
  const chosen = lines.filter((line) => !left.has(keyOf(line)));
  const total = chosen.reduce((sum, line) => sum + line.length, 0);
  const add = async () => {
    await figuresTaken();
    setAdding(true);
    setProblem(null);
    try {
      const common = { base: shown.revision, request: newName(), options: options as Options, joining };
      const params = { path: { id, content: drawing.content } };
      const moved = again.met.filter((met) => met.way === "moved" && again.takes(met)).flatMap((met) => met.line ?? []);
      const after = await (again.instead === null
        ? answer<JobChange>(
            api.POST("/api/jobs/{id}/imports/{content}", {
              params,
              body: { ...common, lines: chosen.map((line) => line.number) },
            }),
          )
        : answer<JobChange>(
            api.POST("/api/jobs/{id}/imports/{content}/renew", {
              params,
              body: {
                ...common,
                instead: again.instead,
                left: again.met.filter((met) => !again.takes(met)).flatMap((met) => met.line ?? []),
                without: again.met
                  .filter((met) => met.way === "new" && !again.takes(met))
                  .flatMap((met) => met.number ?? []),
              },
            }),
          ));
      await take(after);
      // A few are selected, to be worked on at once; thousands are left to be chosen among.
      const made = [...moved, ...(after.made ?? []).filter((one) => useWindow.getState().groupOf(one) === "lines")];
      // What rules have made of them comes along.
      useWindow.getState().selectAlike(made.length > 200 ? [] : made);
      // What has been added is done with; the door is open for another.
      other();
      show("plan");
      const notice =
        again.instead === null
          ? `Added ${count(chosen.length, "line")} from ${drawing.file}.`
          : `${drawing.file} has taken the place of ${again.instead}: ${inWords(again)}.`;
      set({ notice, fit: useWindow.getState().fit + 1 });
    } catch (failed) {
      const sentence = problemOf(failed);
      setProblem(
        sentence.code === "conflict"
          ? { ...sentence, detail: `${sentence.detail} Press “Reload”, then add the lines again.` }
          : sentence,
      );
      if (sentence.code === "conflict")
        set({ conflict: { edits: [], changes: sentence.changes, current: sentence.current ?? 0 } });
    }
    setAdding(false);
  };
  const toggle = (line: Found, on: boolean) => {
    const next = new Set(left);
    if (on) next.delete(keyOf(line));
    else next.add(keyOf(line));
    setLeft(next);
  };
  /** What both views of the drawing show, and do when they are pointed at. */
  const seen = { lines: within(lines, slice), left, keyOf, pointed, point: setPointed, toggle };
  const failed = error ?? again.error;
  const wrong = problem ?? unread ?? (failed ? problemOf(failed) : null);
  const newer = again.instead !== null;
  // Its name comes a moment after the asking has begun: a button that lit up in between would lose the click on it.
  const busy = Boolean(reading) || isFetching;
  const watched = reading ?? task;
  const junctions = found?.junctions ?? [];
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_306px]">
      <div className="flex min-h-0 min-w-0 flex-col">
        {drawing.table && (
          <TableOfPoints table={drawing.table} question={drawing.question} options={options} read={read} />
        )}
        <div className="relative grid min-h-0 flex-1">
          {canTurn && !newer && (
            <div className="absolute top-2.5 right-3 z-10 flex flex-col items-end gap-2">
              <div className="w-32">
                <Choice
                  label="How the drawing is seen"
                  value={solid ? "3d" : "plan"}
                  ways={[
                    ["plan", "Plan"],
                    ["3d", "3D"],
                  ]}
                  choose={(seen) => setSolid(seen === "3d")}
                />
              </div>
              <SliceChoice lines={lines} slice={slice} choose={setSlice} />
            </div>
          )}
          {solid && canTurn && !newer ? (
            <Suspense fallback={<p className="grid place-items-center text-pencil">Loading 3D …</p>}>
              <PreviewSolid
                drawing={drawing}
                options={options}
                {...seen}
                slice={slice}
                loops={pointing.on ? loops : null}
                turn={pointing.turn}
                face={pointing.face}
                reading={Boolean(reading)}
              />
            </Suspense>
          ) : (
            <Preview
              drawing={drawing}
              found={found}
              {...seen}
              busy={busy}
              choose={(junction, pairs) => setWays({ ...ways, [String(junction)]: pairs })}
              over={newer ? overlay(again, found, shown.job.origin ?? []) : null}
              pointedMet={pointedMet}
              pointMet={setPointedMet}
              turn={again.toggle}
            />
          )}
        </div>
      </div>
      <div className="flex min-h-0 flex-col border-rule border-l bg-bench">
        <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
          <h2 className="truncate font-semibold text-lg" title={drawing.file}>
            {drawing.file}
          </h2>
          <p className="text-pencil text-sm">
            {drawing.question ? (
              "Not read yet"
            ) : (
              <>
                {count(drawing.edges, "edge")}
                {drawing.curves > 0 && `, ${count(drawing.curves, "curve")} among them`} · drawn in {drawing.unit}
                {!drawing.unit_known && " (the file does not say; taken as such)"}
              </>
            )}
            {drawing.far_away && " · far from the origin: its place on the site is kept in the job"}
          </p>
          {drawing.notes.map(tell).map((note) => (
            <p key={note} className="mt-1 text-pencil text-sm">
              {note}
            </p>
          ))}
          {drawing.unread && (
            <p className="mt-2 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
              <b className="text-wax-deep">?</b> Not read: {drawing.unread}.
            </p>
          )}
          <InsteadOf again={again} />
          {newer && <WhatChanged again={again} pointed={pointedMet} point={setPointedMet} />}
          <HowRead drawing={drawing} options={options} read={read} />
          <h3 className="mt-4 mb-1 font-semibold text-sm">{faces ? "Which edges?" : "Which layers?"}</h3>
          {faces && (
            <PointingOrKind pointing={pointing} turned={(on) => setDropped(on ? new Set(names) : droppedFor(null))} />
          )}
          <div className="max-h-44 overflow-auto">
            {pointing.on && faces && <FacesList faces={faces} pointing={pointing} />}
            <Layers
              drawing={drawing}
              of={kinds}
              dropped={dropped}
              drop={(next) => {
                setDropped(next);
                setWays({});
              }}
            />
          </div>
          <h3 className="mt-4 mb-1 font-semibold text-sm">How are edges joined?</h3>
          <LengthField
            label="Join tolerance"
            mm={tolerance}
            take={async (mm) => {
              if (mm < 0.01 || mm > 50)
                return { ...problemOf(new Error("")), detail: "The join tolerance goes from 0.01 to 50 mm." };
              setTolerance(mm);
              setWays({});
              return null;
            }}
          />
          <Tick
            label="Bring all to one height"
            checked={level !== null}
            set={(on) => {
              setLevel(on ? 0 : null);
              setWays({});
            }}
          />
          {level !== null && (
            <LengthField
              label="Height"
              mm={level}
              take={async (mm) => {
                setLevel(mm);
                return null;
              }}
            />
          )}
          {found && some && <WhatJoiningDid found={found} levelled={level !== null} />}
          {junctions.length > 0 && (
            <p className="mt-1 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
              {count(junctions.length, "place")} where three or more edges meet. A line goes on the straightest way, if
              any is straight; click a ring on plan to send it another way.
            </p>
          )}
          {!newer && (
            <h3 className="mt-4 mb-1 flex items-baseline font-semibold text-sm">
              Which lines?
              <span className="flex-1" />
              <Words onClick={() => setLeft(chosen.length === lines.length ? new Set(lines.map(keyOf)) : new Set())}>
                {chosen.length === lines.length ? "none" : "all"}
              </Words>
            </h3>
          )}
          {!newer &&
            lines.slice(0, 300).map((line) => (
              <div
                key={line.number}
                className={`flex items-center justify-between gap-2 ${pointed === line.number ? "bg-chalk-wash" : ""}`}
                onPointerEnter={() => setPointed(line.number)}
                onPointerLeave={() => setPointed(null)}
              >
                <Tick label={line.name} checked={!left.has(keyOf(line))} set={(on) => toggle(line, on)} />
                <span className="whitespace-nowrap text-pencil text-sm">
                  {line.curved && "curved · "}
                  {heightWords(line.heights, units)}
                  {line.closed ? "closed" : "open"} · <span className="figure">{formatLength(line.length, units)}</span>
                </span>
              </div>
            ))}
          {!newer && lines.length > 300 && (
            <p className="text-pencil text-sm">
              … and {lines.length - 300} more; choose among them by layer or in the drawing.
            </p>
          )}
          {!some && (
            <p className="text-pencil text-sm">
              {drawing.question
                ? `Nothing yet: answer the question ${drawing.table ? "above the list" : "above the unit"}.`
                : pointing.on
                  ? "Point at a face, or tick one above, to see its lines."
                  : "Choose a layer to see its lines."}
            </p>
          )}
        </div>
        <div className="border-rule border-t px-4 py-3">
          {busy && watched && (
            <Going task={watched} words={reading ? "Reading the file" : "Joining the edges"} stop={() => undefined} />
          )}
          {wrong && !busy && (
            <p role="alert" className="mb-2 text-red text-sm">
              {wrong.detail} {wrong.code === "stopped" && <Words onClick={() => void refetch()}>Go on</Words>}
            </p>
          )}
          {chosen.length > MOST_LINES && (
            <p className="mb-1 text-sm text-wax-deep">
              At most {MOST_LINES.toLocaleString("en")} lines are added at once: leave layers out, or join with a wider
              tolerance.
            </p>
          )}
          <div className="mt-1 flex flex-wrap items-center gap-2">
            {newer ? (
              <>
                <Button strong disabled={!again.met.length || adding || busy || again.busy} onClick={() => void add()}>
                  {adding ? "Replacing …" : "Replace the lines"}
                </Button>
                <span className="text-pencil text-sm">{inWords(again)}</span>
              </>
            ) : (
              <>
                <Button
                  strong
                  disabled={!chosen.length || chosen.length > MOST_LINES || adding || busy}
                  onClick={() => void add()}
                >
                  {adding ? "Adding …" : `Add ${count(chosen.length, "line")}`}
                </Button>
                <span className="figure text-pencil text-sm">{formatLength(total, units)}</span>
              </>
            )}
            <span className="flex-1" />
            <Words onClick={other}>Another file</Words>
          </div>
        </div>
      </div>
    </div>
  );
}
