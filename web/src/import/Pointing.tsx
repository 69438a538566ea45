/** Taking the edges of a mesh by pointing at its faces, in the view or in the list of them. */
import { useState } from "react";
import type { DrawingRead, Units } from "../api/client";
import { Choice, Tick, Words } from "../ui/choices";
import { count, formatLength } from "../ui/figures";
import { useUnits } from "../window/job";
import type { ReadOptions } from "./reading";

export type Pointing = ReturnType<typeof usePointing>;

/** The loops taken by pointing; edges that no face has, those of a level cut say, are always taken by kind. */
export function usePointing(drawing: DrawingRead, options: ReadOptions, changed: () => void) {
  const [way, setWay] = useState<"kind" | "pointing">("kind");
  const [face, setFace] = useState<number | null>(null);
  const on = drawing.faces !== null && way === "pointing";
  const names = drawing.layers.map((layer) => layer.name);
  // Faces are numbered anew when the mesh is read in another way.
  const readAs = [options.sharp, options.unit, options.upright].join();
  const [picked, setPicked] = useState({ loops: [] as number[], readAs });
  const loops = on && picked.readAs === readAs ? picked.loops : [];
  const put = (next: number[]) => {
    setPicked({ loops: next.sort((a, b) => a - b), readAs });
    changed();
  };
  return {
    on,
    loops,
    kinds: on ? names.filter((name) => /^(level cut|polylines)/.test(name)) : names,
    way,
    choose: (next: "kind" | "pointing") => {
      setWay(next);
      changed();
    },
    /** Take loops, or leave them if all are taken. */
    turn: (wanted: number[]) => {
      const all = wanted.length > 0 && wanted.every((loop) => loops.includes(loop));
      const rest = loops.filter((loop) => !wanted.includes(loop));
      put(all ? rest : [...rest, ...wanted]);
    },
    clear: () => put([]),
    face,
    pointAt: setFace,
  };
}

export function PointingOrKind({ pointing, turned }: { pointing: Pointing; turned: (on: boolean) => void }) {
  return (
    <div className="mb-1">
      <Choice
        label="How edges are chosen"
        value={pointing.way}
        ways={[
          ["kind", "By kind"],
          ["pointing", "By pointing at faces"],
        ]}
        choose={(next) => {
          pointing.choose(next);
          turned(next === "pointing");
        }}
      />
    </div>
  );
}

/** The faces of a mesh, the largest first: the edges around them can be taken without pointing. */
export function FacesList({
  faces,
  pointing: { loops, turn, clear, pointAt },
}: {
  faces: NonNullable<DrawingRead["faces"]>;
  pointing: Pointing;
}) {
  const units = useUnits();
  const taken = new Set(loops);
  const words = new Set(faces.largest.flatMap((face) => face.loops.map(([loop]) => loop)));
  const others = loops.filter((loop) => !words.has(loop)).length;
  return (
    <section aria-label="Faces">
      {faces.largest.map(({ number, area, heights, loops: around }) => {
        const all = around.map(([loop]) => loop);
        const some = all.filter((loop) => taken.has(loop)).length;
        return (
          <div key={number} onPointerEnter={() => pointAt(number)} onPointerLeave={() => pointAt(null)}>
            <div className="flex items-center justify-between gap-2">
              <Tick
                label={`Face ${number + 1}`}
                checked={some > 0}
                disabled={!all.length}
                set={() => turn(some === 0 || some === all.length ? all : all.filter((loop) => !taken.has(loop)))}
              />
              <span className="whitespace-nowrap text-pencil text-sm">
                {around.length === 1 && `${count(around[0]?.[1] ?? 0, "edge")} · `}
                {!around.length && "no edges · "}
                {atHeight(heights, units)} · <span className="figure">{squareMetres(area)}</span>
              </span>
            </div>
            {around.length > 1 && (
              <div className="ml-6">
                {around.map(([loop, edges], i) => (
                  <div key={loop} className="flex items-center justify-between gap-2">
                    <Tick
                      label={`loop ${i + 1} of face ${number + 1}`}
                      checked={taken.has(loop)}
                      set={() => turn([loop])}
                    />
                    <span className="figure whitespace-nowrap text-pencil text-sm">{count(edges, "edge")}</span>
                  </div>
                ))}
              </div>
            )}
          </div>
        );
      })}
      {faces.count > faces.largest.length && (
        <p className="text-pencil text-sm">… and {count(faces.count - faces.largest.length, "smaller face")}.</p>
      )}
      {loops.length > 0 && (
        <p className="mt-1 text-sm">
          {count(loops.length, "loop")} taken
          {others > 0 && `, ${others} of smaller faces`}. <Words onClick={clear}>Take none</Words>
        </p>
      )}
    </section>
  );
}

function atHeight([low, high]: readonly [number, number], units: Units): string {
  const [from, to] = [formatLength(low, units), formatLength(high, units)];
  return from === to ? `level at ${from}` : `${from} to ${to}`;
}

function squareMetres(area: number): string {
  return `${Number((area / 1e6).toPrecision(3))} m²`;
}
