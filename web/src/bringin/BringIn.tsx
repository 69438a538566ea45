/** Bring in a drawing: see it, choose layers and lines, set the join tolerance, add the lines in one edit. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useContext, useRef, useState } from "react";
import { answer, api, type DrawingRead, type JobShown, type LinesFound, type Problem, problemOf } from "../api/client";
import { Button, figuresTaken, LengthField, Tick, Words } from "../ui/fields";
import { count, formatLength } from "../ui/figures";
import { JobId, useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { Preview } from "./Preview";

export function BringIn() {
  const [drawing, setDrawing] = useState<DrawingRead | null>(null);
  const [reading, setReading] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const stop = useRef<AbortController | null>(null);
  const read = async (file: File | undefined) => {
    if (!file) return;
    setProblem(null);
    setReading(file.name);
    stop.current = new AbortController();
    try {
      const form = new FormData();
      form.append("file", file);
      setDrawing(
        await answer<DrawingRead>(
          api.POST("/api/imports", {
            body: form as never,
            bodySerializer: (body) => body as never,
            signal: stop.current.signal,
          }),
        ),
      );
    } catch (error) {
      if (!stop.current.signal.aborted) setProblem(problemOf(error));
    }
    setReading(null);
  };
  if (drawing) return <Choosing key={drawing.content} drawing={drawing} other={() => setDrawing(null)} />;
  return <Door read={read} reading={reading} stop={() => stop.current?.abort()} problem={problem} />;
}

function Door({
  read,
  reading,
  stop,
  problem,
}: {
  read: (file: File | undefined) => void;
  reading: string | null;
  stop: () => void;
  problem: Problem | null;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const { show, drawing } = useWindow();
  return (
    <section
      aria-label="Bring in a drawing"
      className="grid h-full place-items-center p-8"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        read(event.dataTransfer.files[0]);
      }}
    >
      <div
        className={`w-[520px] max-w-full rounded-[4px] border-2 border-dashed p-8 ${over ? "border-chalk bg-chalk-wash" : "border-edge"}`}
      >
        <h2 className="mb-1 font-semibold text-lg">Bring in a drawing</h2>
        <p className="mb-4 text-pencil">
          A DXF drawing, R12 to R2018, up to 50 MB. Lines and polylines are read, in model space and in blocks. You see
          what joining makes of them before anything is added.
        </p>
        {reading ? (
          <div role="status" className="flex items-center gap-3">
            <span className="h-1.5 w-40 overflow-hidden rounded bg-rule">
              <span className="block h-full w-1/3 animate-[slide_1.2s_ease-in-out_infinite] rounded bg-chalk" />
            </span>
            Reading {reading} … <Words onClick={stop}>Stop</Words>
          </div>
        ) : (
          <div className="flex gap-2">
            <Button strong onClick={() => input.current?.click()}>
              Choose a file
            </Button>
            <Button onClick={() => show(drawing)}>Back to the drawing</Button>
            <span className="self-center text-pencil text-sm">or drop it here</span>
          </div>
        )}
        <input
          ref={input}
          type="file"
          accept=".dxf"
          aria-label="Drawing file"
          className="hidden"
          onChange={(event) => {
            read(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
        {problem && (
          <p role="alert" className="mt-4 border-red border-l-[3px] bg-red-wash px-3 py-2 text-sm">
            {problem.detail}
          </p>
        )}
      </div>
    </section>
  );
}

function Choosing({ drawing, other }: { drawing: DrawingRead; other: () => void }) {
  const id = useContext(JobId);
  const shown = useShown();
  const units = useUnits();
  const { take } = useChanges();
  const { show, set, select } = useWindow();
  const [tolerance, setTolerance] = useState(1);
  const [layers, setLayers] = useState(drawing.layers.map((layer) => layer.name));
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [pointed, setPointed] = useState<number | null>(null);
  const [adding, setAdding] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const {
    data: found,
    error,
    isFetching,
  } = useQuery({
    queryKey: ["found", drawing.content, tolerance, layers],
    queryFn: ({ signal }) =>
      answer<LinesFound>(
        api.GET("/api/imports/{content}/lines", {
          params: {
            path: { content: drawing.content },
            query: { tolerance, layer: layers.length ? layers : ["\u0000"] },
          },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: layers.length > 0,
    retry: 0,
  });
  const lines = layers.length ? (found?.lines ?? []) : [];
  // Lines keep their choice when the tolerance changes, by what they are made of: their first point and layer.
  const keyOf = (line: LinesFound["lines"][number]) => `${line.layer}:${line.points[0]?.join()}`;
  const chosen = lines.filter((line) => !left.has(keyOf(line)));
  const total = chosen.reduce((sum, line) => sum + line.length, 0);
  const add = async () => {
    await figuresTaken();
    setAdding(true);
    setProblem(null);
    try {
      const body = { base: shown.revision, tolerance, layers, lines: chosen.map((line) => line.number) };
      const after = await answer<JobShown>(
        api.POST("/api/jobs/{id}/imports/{content}", { params: { path: { id, content: drawing.content } }, body }),
      );
      take(after);
      const first = shown.job.last_number ?? 0;
      // A few are selected, to be worked on at once; thousands are left to be chosen among.
      select(chosen.length > 200 ? [] : chosen.map((_, index) => `L${first + 1 + index}`));
      show("plan");
      set({ notice: `Added ${count(chosen.length, "line")} from ${drawing.file}.`, fit: useWindow.getState().fit + 1 });
    } catch (failed) {
      const told = problemOf(failed);
      setProblem(
        told.code === "conflict"
          ? { ...told, detail: `${told.detail} Press “Show the newest”, then add the lines again.` }
          : told,
      );
      if (told.code === "conflict") set({ conflict: { edits: [], changes: told.changes, current: told.current ?? 0 } });
    }
    setAdding(false);
  };
  const toggle = (line: LinesFound["lines"][number], on: boolean) => {
    const next = new Set(left);
    if (on) next.delete(keyOf(line));
    else next.add(keyOf(line));
    setLeft(next);
  };
  const wrong = problem ?? (error ? problemOf(error) : null);
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_306px]">
      <Preview
        drawing={drawing}
        found={found}
        lines={lines}
        left={left}
        keyOf={keyOf}
        pointed={pointed}
        point={setPointed}
        toggle={toggle}
        busy={isFetching}
      />
      <div className="flex min-h-0 flex-col border-rule border-l bg-bench">
        <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
          <h2 className="truncate font-semibold text-lg" title={drawing.file}>
            {drawing.file}
          </h2>
          <p className="text-pencil text-sm">
            {count(drawing.edges, "edge")} · drawn in {drawing.unit}
            {!drawing.unit_known && " (the drawing does not say; taken as such)"}
            {drawing.far_away && " · far from nought: its place on the site is kept in the job"}
          </p>
          {drawing.unread && (
            <p className="mt-2 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
              <b className="text-wax-deep">?</b> Not read yet: {drawing.unread}.
            </p>
          )}
          <h3 className="mt-4 mb-1 font-semibold text-sm">Which layers?</h3>
          <div className="max-h-40 overflow-auto">
            {drawing.layers.map((layer) => (
              <div key={layer.name} className="flex items-center justify-between gap-2">
                <Tick
                  label={layer.name}
                  checked={layers.includes(layer.name)}
                  set={(on) =>
                    setLayers(
                      on
                        ? drawing.layers
                            .map((one) => one.name)
                            .filter((name) => name === layer.name || layers.includes(name))
                        : layers.filter((name) => name !== layer.name),
                    )
                  }
                />
                <span className="figure text-pencil text-sm">{count(layer.edges, "edge")}</span>
              </div>
            ))}
          </div>
          <h3 className="mt-4 mb-1 font-semibold text-sm">How wide a gap is closed?</h3>
          <LengthField
            label="Join tolerance"
            mm={tolerance}
            take={async (mm) => {
              if (mm < 0.01 || mm > 50)
                return { ...problemOf(new Error("")), detail: "The join tolerance goes from 0.01 to 50 mm." };
              setTolerance(mm);
              return null;
            }}
          />
          {found && layers.length > 0 && (
            <p className="text-pencil text-sm">
              {count(found.gaps.length, "gap")} closed · {found.doubled} doubled{" "}
              {found.doubled === 1 ? "edge" : "edges"} dropped · {count(found.dropped_points, "point")} on straights
              dropped
              {found.tiny > 0 && ` · ${count(found.tiny, "edge")} of no length dropped`}
              {found.junctions.length > 0 &&
                ` · ${count(found.junctions.length, "place")} where three or more edges meet; lines end there`}
            </p>
          )}
          <h3 className="mt-4 mb-1 flex items-baseline font-semibold text-sm">
            Which lines?
            <span className="flex-1" />
            <Words onClick={() => setLeft(chosen.length === lines.length ? new Set(lines.map(keyOf)) : new Set())}>
              {chosen.length === lines.length ? "none" : "all"}
            </Words>
          </h3>
          {lines.slice(0, 300).map((line) => (
            <div
              key={line.number}
              className={`flex items-center justify-between gap-2 ${pointed === line.number ? "bg-chalk-wash" : ""}`}
              onPointerEnter={() => setPointed(line.number)}
              onPointerLeave={() => setPointed(null)}
            >
              <Tick label={line.name} checked={!left.has(keyOf(line))} set={(on) => toggle(line, on)} />
              <span className="whitespace-nowrap text-pencil text-sm">
                {line.closed ? "closed" : "open"} · <span className="figure">{formatLength(line.length, units)}</span>
              </span>
            </div>
          ))}
          {lines.length > 300 && (
            <p className="text-pencil text-sm">
              … and {lines.length - 300} more; choose among them by layer or in the drawing.
            </p>
          )}
          {layers.length === 0 && <p className="text-pencil text-sm">Choose a layer to see its lines.</p>}
        </div>
        <div className="border-rule border-t px-4 py-3">
          {wrong && (
            <p role="alert" className="mb-2 text-red text-sm">
              {wrong.detail}
            </p>
          )}
          <div className="flex flex-wrap items-center gap-2">
            <Button strong disabled={!chosen.length || adding} onClick={() => void add()}>
              {adding ? "Adding …" : `Add ${count(chosen.length, "line")}`}
            </Button>
            <span className="figure text-pencil text-sm">{formatLength(total, units)}</span>
            <span className="flex-1" />
            <Words onClick={other}>Another file</Words>
          </div>
        </div>
      </div>
    </div>
  );
}
