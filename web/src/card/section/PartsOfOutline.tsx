/** What can be done to the points and edges of an outline that are picked on the desk, and what is held of it. */
import type { Edit, Section, SectionFigures, Sentence } from "../../api/client";
import { Asked } from "../../ui/Asked";
import { Choice, Words } from "../../ui/choices";
import { AngleField, FigureField, LengthField, Question, useForm } from "../../ui/fields";
import { count, fieldLength, unitWord } from "../../ui/figures";
import { useChanges, useSentence, useUnits } from "../../window/job";
import { type Part, usePart, useWindow } from "../../window/store";

interface Props {
  section: Section;
  figures: SectionFigures;
}

export function PartsOfOutline({ section, figures }: Props) {
  const parts = useWindow((state) => state.parts).filter(
    (part) => part.index < (figures.drawn.loops[part.loop]?.points.length ?? 0),
  );
  const one = parts.length === 1 ? parts[0] : undefined;
  return (
    <>
      {one?.kind === "point" && <OnePoint section={section} figures={figures} part={one} />}
      {one?.kind === "edge" && <OneEdge section={section} figures={figures} part={one} />}
      {parts.length > 1 && <Several section={section} figures={figures} parts={parts} />}
      {!parts.length && (
        <p className="mt-3 text-pencil text-sm">
          Pick a point or an edge on the desk to move, cut or shape it; with Shift, several to hold them level, square
          or equal.
        </p>
      )}
      <HeldOf section={section} figures={figures} />
    </>
  );
}

const named = (part: Part) =>
  `${part.kind === "point" ? "Point" : "Edge"} ${part.index + 1}${part.loop ? ` of hole ${part.loop}` : ""}`;
const place = (part: Part): [number, number] => [part.loop, part.index];

function OnePoint({ section, figures, part }: Props & { part: Part }) {
  const { edit } = useChanges();
  const { set } = usePart("set");
  const { values, put, settled } = useForm({ size: 5 });
  const point = figures.drawn.loops[part.loop]?.points[part.index];
  if (!point) return null;
  const [ox = 0, oy = 0] = figures.drawn.origin;
  const [x = 0, y = 0] = point.at;
  const of = { section: section.id, loop: part.loop, point: part.index };
  const move = (to: [number, number]) => edit([{ kind: "move_outline_point", ...of, to }]);
  const cut = async (how: "round" | "chamfer") => {
    const now = await settled();
    if (now) void edit([{ kind: "cut_outline_corner", ...of, how, size: now.size }]);
  };
  return (
    <>
      <Question>{named(part)}</Question>
      <LengthField label="Across, from the back" mm={x - ox} take={(mm) => move([mm + ox, y])} />
      <LengthField label="Up, from the bottom" mm={y - oy} take={(mm) => move([x, mm + oy])} />
      {point.smooth ? (
        <p className="flex gap-x-3 text-sm">
          <span className="text-pencil">Its edges go on smoothly.</span>
          <Words onClick={() => void hold(edit, section, { kind: "tangent", point: place(part) })}>Hold tangent</Words>
        </p>
      ) : (
        <>
          <AngleField
            label="Angle inside"
            degrees={point.angle}
            take={(value) => figure(edit, section, { kind: "angle", point: place(part), value }, false)}
          />
          <LengthField
            label="Cut by"
            mm={values.size}
            take={async (size) => {
              put({ size });
              return null;
            }}
          />
          <p className="flex flex-wrap gap-x-3 gap-y-0.5">
            <Words onClick={() => void cut("round")}>Round it</Words>
            <Words onClick={() => void cut("chamfer")}>Chamfer it</Words>
            <Words onClick={() => void hold(edit, section, { kind: "tangent", point: place(part) })}>
              Make tangent
            </Words>
            <Words
              onClick={() =>
                void figure(edit, section, { kind: "angle", point: place(part), value: point.angle }, true)
              }
            >
              Hold the angle
            </Words>
          </p>
        </>
      )}
      <p className="mt-1">
        <Words
          onClick={() =>
            void edit([{ kind: "take_outline_point", ...of }]).then((problem) => problem || set({ parts: [] }))
          }
        >
          Take it out
        </Words>
      </p>
    </>
  );
}

type Send = ReturnType<typeof useChanges>["edit"];
const hold = (edit: Send, section: Section, held: object) =>
  edit([{ kind: "hold_outline", section: section.id, held } as Edit]);
const figure = (edit: Send, section: Section, what: object, held: boolean) =>
  edit([{ kind: "set_outline_figure", section: section.id, figure: what, hold: held } as Edit]);

function OneEdge({ section, figures, part }: Props & { part: Part }) {
  const { edit } = useChanges();
  const loop = figures.drawn.loops[part.loop];
  const one = loop?.edges[part.index];
  if (!loop || !one) return null;
  const next: [number, number] = [part.loop, (part.index + 1) % loop.points.length];
  const [a, b] = [loop.points[part.index]?.at as [number, number], loop.points[next[1]]?.at as [number, number]];
  const length = { kind: "length", a: place(part), b: next, way: "straight" };
  const radius = { kind: "radius", edge: place(part) };
  const shaped = (shape: "straight" | "arc" | "curve") => {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const by = {
      straight: [],
      // A third as high as half its chord: an arc that is seen as one.
      arc: [one.kind === "curve" ? one.middle : [(a[0] + b[0]) / 2 + dy / 6, (a[1] + b[1]) / 2 - dx / 6]],
      curve: [
        [a[0] + dx / 3, a[1] + dy / 3],
        [b[0] - dx / 3, b[1] - dy / 3],
      ],
    }[shape];
    void edit([
      { kind: "shape_outline_edge", section: section.id, loop: part.loop, edge: part.index, shape, by } as Edit,
    ]);
  };
  return (
    <>
      <Question>{named(part)}</Question>
      <Choice
        label="Kind of edge"
        value={one.kind}
        ways={[
          ["straight", "Straight"],
          ["arc", "Arc"],
          ["curve", "Curve"],
        ]}
        choose={(kind) => kind !== one.kind && shaped(kind)}
      />
      <div className="mt-1.5" />
      {one.kind === "straight" && (
        <LengthField
          label="Length"
          mm={one.length}
          take={(value) => figure(edit, section, { ...length, value }, false)}
        />
      )}
      {one.kind === "arc" && (
        <LengthField
          label="Radius"
          mm={one.radius ?? null}
          take={(value) => figure(edit, section, { ...radius, value }, false)}
        />
      )}
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        {one.kind === "straight" && (
          <>
            <Words onClick={() => void hold(edit, section, { kind: "level", a: place(part), b: next })}>
              Hold level
            </Words>
            <Words onClick={() => void hold(edit, section, { kind: "upright", a: place(part), b: next })}>
              Hold upright
            </Words>
            <Words onClick={() => void figure(edit, section, { ...length, value: one.length }, true)}>
              Hold the length
            </Words>
            <Words
              title="Its part grows with the section, and the corners of the rest keep their shape"
              onClick={() =>
                void edit([{ kind: "stretch_edge", section: section.id, loop: part.loop, edge: part.index }])
              }
            >
              Let it stretch
            </Words>
          </>
        )}
        {one.kind === "arc" && (
          <Words onClick={() => void figure(edit, section, { ...radius, value: one.radius ?? 1 }, true)}>
            Hold the radius
          </Words>
        )}
        <Words
          title="For example against a wall: it is left out of the painted area"
          onClick={() => void hold(edit, section, { kind: "hidden", edge: place(part) })}
        >
          Hidden, not painted
        </Words>
        <Words
          onClick={() =>
            void edit([
              {
                kind: "put_outline_point",
                section: section.id,
                loop: part.loop,
                edge: part.index,
                at: one.middle,
              },
            ])
          }
        >
          Insert a point
        </Words>
      </p>
    </>
  );
}

function Several({ section, figures, parts }: Props & { parts: Part[] }) {
  const { edit } = useChanges();
  const points = parts.filter((part) => part.kind === "point");
  const edges = parts.filter((part) => part.kind === "edge");
  const words = [points.length && count(points.length, "point"), edges.length && count(edges.length, "edge")];
  /** Hold something of the first and each of the others. */
  const each = (some: Part[], kind: string) => {
    const [first, ...rest] = some as [Part, ...Part[]];
    void edit(
      rest.map(
        (other) =>
          ({ kind: "hold_outline", section: section.id, held: { kind, a: place(first), b: place(other) } }) as Edit,
      ),
    );
  };
  const [a, b, c] = points;
  const at = (part: Part) => figures.drawn.loops[part.loop]?.points[part.index]?.at as [number, number];
  return (
    <>
      <Question>{words.filter(Boolean).join(" and ")}</Question>
      {points.length === 2 && a && b && (
        <>
          {(
            [
              ["Apart, across", "across", Math.abs(at(a)[0] - at(b)[0])],
              ["Apart, up", "up", Math.abs(at(a)[1] - at(b)[1])],
              ["Apart, straight", "straight", Math.hypot(at(a)[0] - at(b)[0], at(a)[1] - at(b)[1])],
            ] as const
          ).map(([label, way, now]) => (
            <LengthField
              key={way}
              label={label}
              mm={now}
              take={(value) => figure(edit, section, { kind: "length", a: place(a), b: place(b), way, value }, true)}
            />
          ))}
          <p className="text-pencil text-xs">A distance typed here is held.</p>
        </>
      )}
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        {edges.length === 0 && points.length > 1 && (
          <>
            <Words onClick={() => each(points, "level")}>Hold level</Words>
            <Words onClick={() => each(points, "upright")}>Hold upright</Words>
          </>
        )}
        {a && b && c && points.length === 3 && !edges.length && (
          <Words
            title="The point picked last, between the two picked before it"
            onClick={() => void hold(edit, section, { kind: "midway", point: place(c), a: place(a), b: place(b) })}
          >
            Hold the last midway
          </Words>
        )}
        {points.length === 0 && edges.length > 1 && (
          <>
            {edges.length === 2 && <Words onClick={() => each(edges, "square")}>Hold square</Words>}
            <Words onClick={() => each(edges, "parallel")}>Hold parallel</Words>
            <Words onClick={() => each(edges, "equal")}>Hold equal</Words>
          </>
        )}
      </p>
    </>
  );
}

/** What a held length or radius is: a figure, or the sizes that it follows. */
function Followed({ section, held }: { section: Section; held: { text?: string | null; value: number } }) {
  const { edit } = useChanges();
  const units = useUnits();
  return (
    <FigureField
      label="is"
      value={held.text ?? fieldLength(held.value, units)}
      unit={units.system === "ft-in" ? "" : unitWord(units)}
      width="w-[130px]"
      take={(text) => figure(edit, section, { ...held, text, system: units.system ?? "mm" }, true)}
    />
  );
}

function HeldOf({ section, figures }: Props) {
  const { edit } = useChanges();
  const sentence = useSentence();
  const { held } = figures.drawn;
  const symmetric = held.some((one) => one.held.kind === "symmetric");
  return (
    <Asked question="What is held true?" answer={held.length ? count(held.length, "condition") : "nothing yet"}>
      {held.length === 0 && <p className="text-pencil text-sm">Nothing yet: every point moves freely.</p>}
      <ul className="text-sm">
        {held.map((one, number) => (
          <li key={number}>
            <span className="flex items-baseline justify-between gap-2">
              <span>{sentence(one.words as Sentence)}</span>
              <span className="shrink-0 whitespace-nowrap">
                <Words onClick={() => void edit([{ kind: "let_go", section: section.id, number }])}>Let go</Words>
              </span>
            </span>
            {(one.held.kind === "length" || one.held.kind === "radius") && (
              <Followed section={section} held={one.held} />
            )}
          </li>
        ))}
      </ul>
      {!symmetric && (
        <p className="mt-1 flex gap-x-3 text-sm">
          <span className="text-pencil">Symmetric about an axis</span>
          {(["upright", "level"] as const).map((axis) => (
            <Words key={axis} onClick={() => void edit([{ kind: "hold_symmetric", section: section.id, axis }])}>
              {axis}
            </Words>
          ))}
        </p>
      )}
    </Asked>
  );
}
