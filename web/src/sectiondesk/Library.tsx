/** The starting library: pick an outline; it becomes a section of the job at the size given. */
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Edit, type LibraryEntry, problemOf, type SupplierPage } from "../api/client";
import { Button, Choice, Tick, Words } from "../ui/choices";
import { LengthField, useForm } from "../ui/fields";
import { count, formatLength, sizeWords } from "../ui/figures";
import { when } from "../ui/when";
import { useChanges, useUnits } from "../window/job";
import { usePart } from "../window/store";
import { NewPolygon } from "./NewPolygon";
import { isFound } from "./searching";
import { useShop, useShopActs } from "./shop";

/** A section of one of the libraries; of the shop's with its version, of a supplier's with its price. */
type Shelved = LibraryEntry & { shop?: { id: string; version: number } };
type Which = "starting" | "shop" | "supplier";

/** The pages of the supplier's catalogue that have come; the next is asked for when the last has. */
function useCatalogue(on: boolean) {
  return useInfiniteQuery({
    queryKey: ["supplier", "catalogue"],
    queryFn: ({ pageParam }) =>
      answer<SupplierPage>(api.GET("/api/supplier/catalogue", { params: { query: { page: pageParam } } })),
    initialPageParam: 1,
    getNextPageParam: (last) => (last.page < last.pages ? last.page + 1 : undefined),
    enabled: on,
    staleTime: 60_000,
    retry: 0,
  });
}

/** The sections of a library. */
function useShelf(which: Which) {
  const catalogue = useCatalogue(which === "supplier");
  const starting = useQuery({
    queryKey: ["library"],
    queryFn: () => answer<LibraryEntry[]>(api.GET("/api/library")),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: which === "starting",
  });
  const shop = useShop();
  const { error, refetch } = { starting, shop, supplier: catalogue }[which];
  const units = useUnits();
  const { hasNextPage, isFetching, fetchNextPage } = catalogue;
  useEffect(() => {
    if (which === "supplier" && hasNextPage && !isFetching) void fetchNextPage();
  }, [which, hasNextPage, isFetching, fetchNextPage]);
  const pages = catalogue.data?.pages;
  const data: Shelved[] | undefined =
    which === "starting"
      ? starting.data
      : which === "supplier"
        ? pages?.flatMap((page) =>
            page.goods.map(({ path, section, ...goods }) => ({
              key: goods.code,
              family: page.supplier,
              standard: `${goods.code} · ${goods.price.toFixed(2)} ${goods.currency} a metre · ${goods.lengths.map((mm) => formatLength(mm, units)).join(", ")} · ${count(goods.days, "day")}`,
              section: { ...section, stock: { supplier: page.supplier, ...goods } } as LibraryEntry["section"],
              path,
            })),
          )
        : shop.data?.map(({ id, folder, version }) => ({
            key: id,
            family: folder || "In no folder",
            standard: `version ${version.number}, ${version.author ?? "somebody"}, ${when(version.made_at)}`,
            section: version.section,
            path: version.path,
            shop: { id, version: version.number },
          }));
  const late = which === "supplier" ? pages?.find((page) => page.trouble) : undefined;
  return { data, error, refetch, late };
}

export function Library() {
  const [which, setWhich] = useState<Which>("starting");
  const { data, error, refetch, late } = useShelf(which);
  const { data: supplier } = useQuery({
    queryKey: ["supplier"],
    queryFn: () => answer<{ there: boolean }>(api.GET("/api/supplier")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [picked, setPicked] = useState<Shelved | null>(null);
  const { show, drawing } = usePart("show", "drawing");
  const [looked, setLooked] = useState("");
  const [alike, setAlike] = useState(false);
  const found = data?.filter((entry) => isFound(entry, looked));
  const families = [...new Set(found?.map((entry) => entry.family))];
  const largest = Math.max(...(found ?? []).map(({ section }) => Math.max(section.width, section.height)));
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-baseline justify-between px-6 pt-4 pb-2">
        <div>
          <h2 className="font-semibold text-lg">Pick a section</h2>
          <p className="text-pencil text-sm">
            Seen along the line, back to the left. Pick one, give it a size, and it is the job's own.
          </p>
        </div>
        <span className="flex items-baseline gap-5">
          <NewPolygon />
          <Words onClick={() => show(drawing)}>Back to the drawing</Words>
        </span>
      </div>
      <div className="flex items-center gap-5 px-6 pb-2">
        <span className="w-[340px]">
          <Choice<Which>
            label="Which library"
            value={which}
            ways={[
              ["starting", "Starting library"],
              ["shop", "The shop's own"],
              ...(supplier?.there ? [["supplier", "Supplier"] as [Which, string]] : []),
            ]}
            choose={(way) => {
              setWhich(way);
              setPicked(null);
            }}
          />
        </span>
        <input
          aria-label="Find a section"
          className="h-8 w-52 rounded-[3px] border border-edge bg-paper px-2"
          placeholder="Words or sizes: tube 60 × 40"
          value={looked}
          autoComplete="off"
          spellCheck={false}
          onChange={(event) => setLooked(event.target.value)}
        />
        <Tick label="at one scale" checked={alike} set={setAlike} />
        <span className="text-pencil text-sm" role="status">
          {found &&
            (looked.trim()
              ? `${found.length} of ${count(data?.length ?? 0, "section")}`
              : count(found.length, "section"))}
        </span>
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-6 pb-4">
        {error && (
          <p role="alert" className="text-red">
            {error.message} <Words onClick={() => void refetch()}>Try again</Words>
          </p>
        )}
        {late && (
          <p role="status" className="mb-2 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
            {late.supplier}'s catalogue {late.trouble}. Shown is what it said when it was last asked,{" "}
            {when(late.fetched_at)}; prices and days may have changed.{" "}
            <Words onClick={() => void refetch()}>Try again</Words>
          </p>
        )}
        {which === "shop" && <TakeIn />}
        {data?.length === 0 && which === "shop" && (
          <p className="max-w-prose py-6 text-pencil">
            Nothing is kept here yet. Open a section of a job on its desk and keep it in the shop's library, or take in
            a file of sections: then it is there for every job.
          </p>
        )}
        {found?.length === 0 && data?.length !== 0 && (
          <p className="py-6 text-pencil">
            None of the sections has all of that. <Words onClick={() => setLooked("")}>Show all of them</Words>
          </p>
        )}
        {families.map((family) => (
          <section key={family} className="mb-3">
            <h3 className="mb-1.5 border-rule border-b pb-0.5 text-pencil text-sm">{family}</h3>
            <div className="grid grid-cols-[repeat(auto-fill,minmax(168px,1fr))] gap-2">
              {found
                ?.filter((entry) => entry.family === family)
                .map((entry) => (
                  <Tile
                    key={entry.key}
                    entry={entry}
                    on={picked?.key === entry.key}
                    pick={() => setPicked(entry)}
                    largest={alike ? largest : null}
                  />
                ))}
            </div>
          </section>
        ))}
      </div>
      {picked && <Sized key={picked.key} entry={picked} />}
    </div>
  );
}

/** A file of sections, taken into the shop's library. */
function TakeIn() {
  const { takeIn } = useShopActs();
  const [told, setTold] = useState<{ wrong: boolean; text: string } | null>(null);
  return (
    <p className="mb-2 flex items-baseline gap-4 text-sm">
      <label className="cursor-pointer text-chalk-deep underline decoration-chalk/30 underline-offset-[3px] hover:decoration-chalk">
        Take in a file of sections
        <input
          type="file"
          accept=".json,.section.json"
          className="sr-only"
          onChange={async (event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (!file) return;
            try {
              const { ids } = await takeIn(file, "");
              setTold({ wrong: false, text: `${count(ids.length, "section")} taken in from ${file.name}.` });
            } catch (error) {
              setTold({ wrong: true, text: problemOf(error).detail });
            }
          }}
        />
      </label>
      {told && (
        <span role={told.wrong ? "alert" : "status"} className={told.wrong ? "text-red" : "text-pencil"}>
          {told.text}
        </span>
      )}
    </p>
  );
}

function Tile({
  entry,
  on,
  pick,
  largest,
}: {
  entry: LibraryEntry;
  on: boolean;
  pick: () => void;
  /** What is as large as the tile; null where each section is. */
  largest: number | null;
}) {
  const units = useUnits();
  const { section } = entry;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={pick}
      className={`cursor-pointer rounded-[3px] border p-2 text-left ${on ? "border-chalk bg-chalk-wash" : "border-rule bg-white hover:border-edge"}`}
    >
      <Outline path={entry.path} width={section.width} height={section.height} size={84} on={on} largest={largest} />
      <span className="mt-1.5 block truncate text-sm" title={section.name}>
        {section.name}
      </span>
      <span className="figure block truncate text-pencil text-sm">{sizeWords(section, units)}</span>
      {entry.standard && <span className="line-clamp-2 text-pencil text-xs">{entry.standard}</span>}
    </button>
  );
}

export function Outline({
  path,
  width,
  height,
  size,
  on,
  largest = null,
}: {
  path: string;
  width: number;
  height: number;
  size: number;
  on?: boolean;
  largest?: number | null;
}) {
  const scale = size / (largest ?? Math.max(width, height));
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

function Sized({ entry }: { entry: Shelved }) {
  const { make } = useChanges();
  const { change: changeKept } = useShopActs();
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
    const { problem, made } = await make([
      { kind: "add_section", section: { ...entry.section, ...now }, shop: entry.shop } as Edit,
    ]);
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
        {entry.shop && (
          <Words
            onClick={() =>
              void changeKept(entry.shop?.id ?? "", { removed: true }).catch((error) =>
                setWrong(problemOf(error).detail),
              )
            }
          >
            Take it out of the library
          </Words>
        )}
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
