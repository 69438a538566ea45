/** The starting library: pick an outline; it becomes a section of the job at the size given. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Edit, type LibraryEntry } from "../api/client";
import { Button, Tick, Words } from "../ui/choices";
import { LengthField, useForm } from "../ui/fields";
import { sizeWords } from "../ui/figures";
import { useChanges, useUnits } from "../window/job";
import { usePart } from "../window/store";

export function Library() {
  const { data, error, refetch } = useQuery({
    queryKey: ["library"],
    queryFn: () => answer<LibraryEntry[]>(api.GET("/api/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [picked, setPicked] = useState<LibraryEntry | null>(null);
  const { show, drawing } = usePart("show", "drawing");
  const families = [...new Set(data?.map((entry) => entry.family))];
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-baseline justify-between px-6 pt-4 pb-2">
        <div>
          <h2 className="font-semibold text-lg">Pick a section</h2>
          <p className="text-pencil text-sm">
            Seen along the line, back to the left. Pick one, give it a size, and it is the job's own.
          </p>
        </div>
        <Words onClick={() => show(drawing)}>Back to the drawing</Words>
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-6 pb-4">
        {error && (
          <p role="alert" className="text-red">
            {error.message} <Words onClick={() => void refetch()}>Try again</Words>
          </p>
        )}
        {families.map((family) => (
          <section key={family} className="mb-3">
            <h3 className="mb-1.5 border-rule border-b pb-0.5 text-pencil text-sm">{family}</h3>
            <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-2">
              {data
                ?.filter((entry) => entry.family === family)
                .map((entry) => (
                  <Tile key={entry.key} entry={entry} on={picked?.key === entry.key} pick={() => setPicked(entry)} />
                ))}
            </div>
          </section>
        ))}
      </div>
      {picked && <Sized key={picked.key} entry={picked} />}
    </div>
  );
}

function Tile({ entry, on, pick }: { entry: LibraryEntry; on: boolean; pick: () => void }) {
  const units = useUnits();
  const { section } = entry;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={pick}
      className={`cursor-pointer rounded-[3px] border p-2 text-left ${on ? "border-chalk bg-chalk-wash" : "border-rule bg-white hover:border-edge"}`}
    >
      <Outline path={entry.path} width={section.width} height={section.height} size={84} on={on} />
      <span className="mt-1.5 block truncate text-sm">{section.name}</span>
      <span className="figure block text-pencil text-sm">{sizeWords(section, units)}</span>
    </button>
  );
}

export function Outline({
  path,
  width,
  height,
  size,
  on,
}: {
  path: string;
  width: number;
  height: number;
  size: number;
  on?: boolean;
}) {
  const scale = size / Math.max(width, height);
  return (
    <svg
      width="100%"
      height={size + 4}
      viewBox={`${-(size * 1.25 - width * scale) / 2 - 2} -2 ${size * 1.25 + 4} ${size + 4}`}
      role="img"
      aria-label="Outline"
    >
      <g transform={`translate(0 ${(size + height * scale) / 2}) scale(${scale} ${-scale})`}>
        <path
          d={path}
          fill={on ? "var(--color-chalk-pale)" : "var(--color-timber)"}
          stroke={on ? "var(--color-chalk-deep)" : "var(--color-ink)"}
          strokeWidth={1.3}
          vectorEffect="non-scaling-stroke"
          fillRule="evenodd"
        />
      </g>
    </svg>
  );
}

function Sized({ entry }: { entry: LibraryEntry }) {
  const { make } = useChanges();
  const { select } = usePart("select");
  const { values: size, put, settled } = useForm({ width: entry.section.width, height: entry.section.height });
  const [together, setTogether] = useState(true);
  const [wrong, setWrong] = useState("");
  const change = (side: "width" | "height") => async (mm: number) => {
    if (mm > 0) {
      put((now) => {
        const times = together ? mm / now[side] : 1;
        return { width: now.width * times, height: now.height * times, [side]: mm };
      });
      setWrong("");
    } else setWrong("A size must be more than nothing.");
    return null;
  };
  const take = async () => {
    const now = await settled();
    if (!now) return;
    const { problem, made } = await make([{ kind: "add_section", section: { ...entry.section, ...now } } as Edit]);
    if (problem) setWrong(problem.detail);
    else select(made);
  };
  return (
    <div className="border-rule border-t bg-bench px-6 py-2.5">
      <div className="flex items-center gap-6">
        <span className="font-medium">{entry.section.name}</span>
        <LengthField label="Width" mm={size.width} take={change("width")} />
        <LengthField label="Height" mm={size.height} take={change("height")} />
        <Tick label="scaled together" checked={together} set={setTogether} />
        <span className="flex-1" />
        <Button strong onClick={() => void take()}>
          Add to job
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-red text-sm">
          {wrong}
        </p>
      )}
    </div>
  );
}
