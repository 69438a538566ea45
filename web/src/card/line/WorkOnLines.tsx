/** Working on lines: at a chainage of one, and on one or several as wholes. */
import type { Edit, Line } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Words } from "../../ui/choices";
import { LengthField, useForm } from "../../ui/fields";
import { useChanges, useShown } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { namedMarks, typicalOf } from "../../window/things";
import { nextName } from "./OpeningsOfLine";

/** Ask for a place on plan inside a region. */
function pickRegion(done: (point: [number, number]) => void) {
  useWindow.getState().set({
    picking: {
      ask: ["Click inside a region that lines go all the way round"],
      spots: [],
      done: ([spot]) => spot && done([spot.point[0], spot.point[1]]),
    },
    view: "plan",
    plane: null,
  });
}

export function AtChainage({ line, length }: { line: Line; length: number }) {
  const { edit } = useChanges();
  const picked = useWindow((state) => state.chainage);
  const { values, put, settled } = useForm<{ typed: number | null }>({ typed: null });
  const at = values.typed ?? picked ?? Math.round(length / 2);
  const marks = namedMarks(line);
  const openings = line.openings ?? [];
  /** Do something at the chainage, the newest that was typed. */
  const make = async (made: (at: number) => object) => {
    const now = await settled();
    if (now) void edit([{ line: line.id, ...made(now.typed ?? at) } as Edit]);
  };
  return (
    <Asked question="What is at a chainage?" answer="split, name or open it" opens={picked !== null}>
      <LengthField
        label="Chainage"
        mm={at}
        take={async (mm) => {
          put({ typed: mm });
          return null;
        }}
      />
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        <Words onClick={() => void make((at) => ({ kind: "split_line", at }))}>
          {line.closed ? "Open it there" : "Split it there"}
        </Words>
        {line.closed && <Words onClick={() => void make((at) => ({ kind: "start_line_at", at }))}>Start here</Words>}
        <Words
          onClick={() => {
            const name = nextName(
              marks.map((mark) => mark.name),
              "M1",
            );
            void make((at) => ({ kind: "add_marks", marks: [{ name, at }] }));
          }}
        >
          Name the place
        </Words>
        <Words
          onClick={() => {
            const name = nextName(
              openings.map((one) => one.name),
              "D1",
            );
            void make((at) => ({ kind: "add_openings", openings: [{ name, at, width: 900 }] }));
          }}
        >
          Opening from there
        </Words>
      </p>
      <p className="text-pencil text-xs">A click on the rod takes the chainage.</p>
    </Asked>
  );
}

export function WorkOnLines({ lines }: { lines: Line[] }) {
  const shown = useShown();
  const { edit, make } = useChanges();
  const { set, select } = usePart("set", "select");
  const ids = lines.map((line) => line.id);
  const free = lines.every((line) => !typicalOf(shown, line.id));
  const open = lines.every((line) => !line.closed);
  return (
    <Asked
      question={lines.length > 1 ? "What is done with them?" : "What is done with it?"}
      answer="reverse, copy, offset …"
    >
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        <Words onClick={() => void edit([{ kind: "reverse_lines", lines: ids }])}>Reverse</Words>
        {lines.length > 1 && open && (
          <Words onClick={() => void edit([{ kind: "join_lines", lines: ids, tolerance: 50 }])}>Join end to end</Words>
        )}
        <Words onClick={() => set({ dialog: "copy" })}>Copy, move or mirror</Words>
        {free && (
          <Words
            title="Drawn once, with all that is on it: forty windows are one"
            onClick={() => set({ dialog: "places" })}
          >
            Let {lines.length > 1 ? "them" : "it"} stand in several places
          </Words>
        )}
        {lines.length === 1 && <Words onClick={() => set({ dialog: "follow" })}>Offset line</Words>}
        {lines.length === 2 && (
          <Words
            onClick={() => {
              const name = `Midway, ${lines[0]?.name}`.slice(0, 120);
              void edit([{ kind: "add_made", name, made: { kind: "midway", lines: ids as never }, follows: true }]);
            }}
          >
            A line midway between
          </Words>
        )}
        <Words onClick={() => set({ dialog: "simplify" })}>Simplify</Words>
        {lines.every((line) => line.closed) && (
          <Words
            title="Its outline on plan, east to the right, becomes a section; lines within it are its holes"
            onClick={() => {
              const name = (lines[0]?.name ?? "Section").slice(0, 120);
              void make([{ kind: "section_of_lines", lines: ids, name }], (made) => select(made));
            }}
          >
            Make a section of {lines.length > 1 ? "them" : "it"}
          </Words>
        )}
        <Words
          title="What the lines round a place you click enclose becomes a section, with its holes"
          onClick={() =>
            pickRegion((point) => {
              const name = `Section ${(shown.job.sections?.length ?? 0) + 1}`;
              const lines = ids.length > 1 ? ids : null;
              void make([{ kind: "section_of_region", name, point, lines }], (made) => select(made));
            })
          }
        >
          Make a section of a region
        </Words>
        <Words
          title="The boundary of the region round a place you click"
          onClick={() =>
            pickRegion((point) => {
              const name = `Region ${(shown.job.lines?.length ?? 0) + 1}`;
              void edit([{ kind: "add_region", name, point, lines: ids.length > 1 ? ids : null }]);
            })
          }
        >
          Boundary of a region
        </Words>
      </p>
    </Asked>
  );
}
