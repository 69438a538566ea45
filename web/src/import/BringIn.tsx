/** Import a drawing, a model or a list of points: see it, choose what and how, add the lines in one edit. */

import { useRef, useState } from "react";
import { type DrawingRead, type Problem, problemOf } from "../api/client";
import { useFormats } from "../api/formats";
import { newTask } from "../api/tasks";
import { Button } from "../ui/choices";
import { Going } from "../ui/Going";
import { usePart } from "../window/store";
import { PickLines } from "./PickLines";
import { type ReadOptions, readAgain, rememberOf, saidOf, sendFile } from "./reading";

/** The largest file that is read, bytes; the service has the same limit. */
const LARGEST = 50 * 1024 ** 2;

export function BringIn() {
  const [drawing, setDrawing] = useState<DrawingRead | null>(null);
  const [options, setOptions] = useState<ReadOptions>({});
  const [reading, setReading] = useState<{ task: string; name: string } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const stop = useRef<AbortController | null>(null);
  const going = async (name: string, work: (task: string, signal: AbortSignal) => Promise<DrawingRead>) => {
    setProblem(null);
    const task = newTask();
    setReading({ task, name });
    const own = new AbortController();
    stop.current = own;
    try {
      const found = await work(task, own.signal);
      if (!own.signal.aborted) setDrawing(found);
      return true;
    } catch (error) {
      if (!own.signal.aborted) setProblem(problemOf(error));
      return false;
    } finally {
      setReading(null);
    }
  };
  const read = (file: File | undefined) => {
    if (!file) return;
    if (file.size > LARGEST) {
      // Sentence before it is sent, which may take minutes.
      const size = `${Math.round(file.size / 1024 ** 2)} MB`;
      const detail = `${file.name} is ${size}; the limit is 50 MB. Save the part you need as a file of its own.`;
      setProblem({ ...problemOf(new Error("")), detail });
      return;
    }
    setOptions({});
    void going(file.name, async (task, signal) => {
      const found = await sendFile(file, {}, task, signal);
      const said = found.unit_known ? null : saidOf(found.kind);
      if (!said || signal.aborted) return found;
      const again = await readAgain(found.content, said, task);
      setOptions(said);
      return again;
    });
  };
  const again = async (wanted: ReadOptions) => {
    if (!drawing) return;
    const before = options;
    setOptions(wanted);
    const name = drawing.file;
    if (!(await going(name, (task) => readAgain(drawing.content, wanted, task)))) setOptions(before);
    else if (wanted.unit !== before.unit || wanted.degrees !== before.degrees) rememberOf(drawing.kind, wanted);
  };
  if (drawing)
    return (
      <PickLines
        key={drawing.content}
        drawing={drawing}
        options={options}
        read={(wanted) => void again(wanted)}
        reading={reading?.task ?? null}
        problem={problem}
        other={() => {
          stop.current?.abort();
          setDrawing(null);
        }}
      />
    );
  return <Door read={read} reading={reading} stop={() => stop.current?.abort()} problem={problem} />;
}

const kinds: [string, string][] = [
  ["DXF", "R12 to R2018, every kind of edge, in model space and in blocks"],
  ["SVG", "paths and shapes, with their transforms and units"],
  ["GeoJSON", "lines and polygons, in any coordinate system"],
  ["Points", "CSV or text: number, east, north, height, code"],
  ["Meshes", "OBJ, PLY, STL, glTF: sharp edges, open boundaries, level cuts, polylines"],
  ["IFC", "spaces, walls, slabs, columns at floor or ceiling level, with their openings"],
];

function Door({
  read,
  reading,
  stop,
  problem,
}: {
  read: (file: File | undefined) => void;
  reading: { task: string; name: string } | null;
  stop: () => void;
  problem: Problem | null;
}) {
  const formats = useFormats();
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const { show, drawing } = usePart("show", "drawing");
  return (
    <section
      aria-label="Import a drawing"
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
        className={`w-[560px] max-w-full rounded-[4px] border-2 border-dashed p-8 ${over ? "border-chalk bg-chalk-wash" : "border-edge"}`}
      >
        <h2 className="mb-1 font-semibold text-lg">Import a drawing, a model or points</h2>
        <p className="mb-3 text-pencil">Up to 50 MB. You see what joining makes of it before anything is added.</p>
        <dl className="mb-5 grid grid-cols-[76px_1fr] gap-y-1 text-sm">
          {kinds.map(([name, what]) => (
            <div key={name} className="contents">
              <dt className="font-medium">{name}</dt>
              <dd className="text-pencil">{what}</dd>
            </div>
          ))}
        </dl>
        {reading ? (
          <Going task={reading.task} words={`Reading ${reading.name}`} stop={stop} />
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
          accept={formats?.imports.flatMap((one) => one.endings.map((ending) => `.${ending}`)).join(",")}
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
