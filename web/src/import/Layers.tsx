/** The layers of a file, to be taken or left. */
import type { DrawingRead } from "../api/client";
import { Tick } from "../ui/choices";
import { count } from "../ui/figures";

/** The layers of a file, those of each storey together where it has several. */
export function Layers({
  drawing,
  of,
  dropped,
  drop,
}: {
  drawing: DrawingRead;
  /** The layers that are listed. */
  of: readonly string[];
  dropped: ReadonlySet<string>;
  drop: (dropped: Set<string>) => void;
}) {
  const listed = drawing.layers.filter((layer) => of.includes(layer.name));
  const groups = [...new Set(listed.map((layer) => layer.group))];
  const turn = (names: string[], on: boolean) => {
    const next = new Set(dropped);
    for (const name of names) {
      if (on) next.delete(name);
      else next.add(name);
    }
    drop(next);
  };
  return groups.map((group) => {
    const layers = listed.filter((layer) => layer.group === group);
    const names = layers.map((layer) => layer.name);
    return (
      <div key={group ?? ""} className={group ? "mb-1.5" : ""}>
        {group && (
          <div className="flex items-center justify-between gap-2 font-medium">
            <Tick label={group} checked={names.some((name) => !dropped.has(name))} set={(on) => turn(names, on)} />
            <span className="figure whitespace-nowrap text-pencil text-sm">{count(layers.length, "thing")}</span>
          </div>
        )}
        <div className={group ? "ml-4" : ""}>
          {layers.map((layer) => (
            <div key={layer.name} className="flex items-center justify-between gap-2">
              <span className="flex min-w-0 items-center gap-1.5">
                <Tick label={layer.name} checked={!dropped.has(layer.name)} set={(on) => turn([layer.name], on)} />
                {layer.colour && (
                  <span
                    title={`drawn in ${layer.colour}`}
                    className="size-2 shrink-0 rounded-full border border-edge"
                    style={{ background: layer.colour }}
                  />
                )}
              </span>
              <span className="figure whitespace-nowrap text-pencil text-sm">
                {layer.hidden && "off · "}
                {count(layer.edges, "edge")}
              </span>
            </div>
          ))}
        </div>
      </div>
    );
  });
}
