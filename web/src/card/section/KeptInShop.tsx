/** A section in the shop's library: kept there, in which version, what a newer one would change; and as a file. */
import { useMemo, useState } from "react";
import { type Edit, type JobShown, type KeptVersion, problemOf, type Section } from "../../api/client";
import { bodyOf, saveAsFile, useShop, useShopActs, useVersions } from "../../sectiondesk/library/shop";
import { Asked } from "../../ui/Asked";
import { Words } from "../../ui/choices";
import { count, sizeWords } from "../../ui/figures";
import { when } from "../../ui/when";
import { useChanges, useRehearsal, useShown, useUnits } from "../../window/job";
import { lookedAt } from "../../window/optimistic";

export function KeptInShop({ section }: { section: Section }) {
  const [wrong, setWrong] = useState("");
  const words = (error: unknown) => setWrong(problemOf(error).detail);
  return (
    <Asked question="Is it kept for other jobs?" answer={section.shop ? `yes, version ${section.shop.version}` : "no"}>
      {section.shop ? (
        <Linked section={section} shop={section.shop} words={words} clear={() => setWrong("")} />
      ) : (
        <NotKept section={section} words={words} />
      )}
      {wrong && (
        <p role="alert" className="mt-0.5 text-red text-xs">
          {wrong}
        </p>
      )}
      <p className="mt-1.5 flex gap-x-3">
        <span className="text-pencil text-sm">Save as</span>
        <Words onClick={() => void saveAsFile(section, "json").catch(words)}>Section file</Words>
        <Words onClick={() => void saveAsFile(section, "dxf").catch(words)}>DXF</Words>
        <Words onClick={() => void saveAsFile(section, "svg").catch(words)}>SVG</Words>
      </p>
    </Asked>
  );
}

function NotKept({ section, words }: { section: Section; words: (error: unknown) => void }) {
  const { edit } = useChanges();
  const { keep } = useShopActs();
  const { data } = useShop();
  const [folder, setFolder] = useState("");
  const folders = [...new Set((data ?? []).map((one) => one.folder).filter(Boolean))];
  const put = async () => {
    try {
      const kept = await keep(bodyOf(section), folder.trim());
      const shop = { id: kept.id, version: kept.version.number };
      await edit([{ kind: "take_version", section: section.id, shop }]);
    } catch (error) {
      words(error);
    }
  };
  return (
    <div className="flex items-center gap-2">
      <input
        aria-label="Folder in the shop's library"
        className="h-7 min-w-0 flex-1 rounded-[3px] border border-edge bg-paper px-2 text-sm"
        placeholder="folder, if any"
        list="folders-of-the-shop"
        value={folder}
        onChange={(event) => setFolder(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && void put()}
      />
      <datalist id="folders-of-the-shop">
        {folders.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <Words onClick={() => void put()}>Keep in the shop's library</Words>
    </div>
  );
}

function Linked({
  section,
  shop,
  words,
  clear,
}: {
  section: Section;
  shop: { id: string; version: number };
  words: (error: unknown) => void;
  clear: () => void;
}) {
  const { edit } = useChanges();
  const { keepVersion } = useShopActs();
  const { data: versions, error } = useVersions(shop.id);
  const [all, setAll] = useState(false);
  const [said, setSaid] = useState("");
  if (error)
    return <p className="text-pencil text-sm">The shop's library no longer has it: {problemOf(error).detail}</p>;
  if (!versions) return null;
  const now = versions.find((one) => one.number === shop.version);
  const newest = versions[0];
  const same = now && alike(bodyOf(section), now.section);
  const take = (version: KeptVersion) =>
    edit([
      {
        kind: "take_version",
        section: section.id,
        shop: { id: shop.id, version: version.number },
        body: version.section,
      },
    ]).then((problem) => (problem ? words(problem) : clear()));
  const keep = async () => {
    try {
      const kept = await keepVersion(shop.id, newest?.number ?? shop.version, bodyOf(section), said.trim());
      await edit([{ kind: "take_version", section: section.id, shop: { id: shop.id, version: kept.version.number } }]);
      setSaid("");
      clear();
    } catch (problem) {
      words(problem);
    }
  };
  return (
    <>
      <p className="text-sm">
        Version {shop.version} of the shop's library
        {same ? "." : ", and changed here since."}
      </p>
      {newest && newest.number > shop.version && (
        <Newer section={section} shop={shop.id} version={newest} take={() => void take(newest)} />
      )}
      {!same && (
        <div className="mt-1 flex items-center gap-2">
          <input
            aria-label="What was changed"
            className="h-7 min-w-0 flex-1 rounded-[3px] border border-edge bg-paper px-2 text-sm"
            placeholder="what was changed"
            value={said}
            onChange={(event) => setSaid(event.target.value)}
            onKeyDown={(event) => event.key === "Enter" && void keep()}
          />
          <Words onClick={() => void keep()}>Keep as version {(newest?.number ?? shop.version) + 1}</Words>
        </div>
      )}
      <p className="mt-0.5">
        <Words onClick={() => setAll(!all)}>
          {all ? "Hide its versions" : `Its ${count(versions.length, "version")}`}
        </Words>
      </p>
      {all && (
        <ol className="text-sm">
          {versions.map((one) => (
            <li key={one.number} className="flex items-baseline justify-between gap-2">
              <span>
                <span className="figure">{one.number}</span> · {one.said}
                <span className="text-pencil">
                  , {one.author ?? "somebody"}, {when(one.made_at)}
                </span>
              </span>
              {one.number !== shop.version && <Words onClick={() => void take(one)}>Take it</Words>}
            </li>
          ))}
        </ol>
      )}
    </>
  );
}

/** The tags of pieces that are cut otherwise in one state of a job than in another, or are there in one only. */
function cutOtherwise(before: JobShown, after: JobShown): string[] {
  const words = (shown: JobShown) =>
    new Map(
      shown.runs.flatMap((run) =>
        run.pieces.map((piece) => [
          piece.tag,
          JSON.stringify([piece.length, piece.long_point, piece.short_point, piece.begin_cut, piece.end_cut]),
        ]),
      ),
    );
  const [was, is] = [words(before), words(after)];
  return [...new Set([...was.keys(), ...is.keys()])].filter((tag) => was.get(tag) !== is.get(tag));
}

const cutWords = (tags: string[]) =>
  tags.length
    ? `Cut differently: ${tags.slice(0, 12).join(", ")}${tags.length > 12 ? ` and ${tags.length - 12} more` : ""}.`
    : "None is cut differently.";

/** A newer version, with the runs and pieces that it would change, before it is taken. */
function Newer({
  section,
  shop,
  version,
  take,
}: {
  section: Section;
  shop: string;
  version: KeptVersion;
  take: () => void;
}) {
  const shown = useShown();
  const units = useUnits();
  const runs = (shown.job.runs ?? []).filter((run) => run.section === section.id);
  const pieces = runs.reduce((sum, run) => sum + (shown.totals.runs[run.id]?.pieces ?? 0), 0);
  const edits = useMemo(
    () =>
      runs.length
        ? [
            {
              kind: "take_version",
              section: section.id,
              shop: { id: shop, version: version.number },
              body: version.section,
            },
          ]
        : null,
    [section.id, shop, version, runs.length],
  );
  const change = useRehearsal(edits as unknown as Edit[] | null);
  const otherwise = useMemo(() => change && cutOtherwise(shown, lookedAt(shown, change)), [change, shown]);
  return (
    <div className="mt-1 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
      Version {version.number} is there: {version.said}, by {version.author ?? "somebody"};{" "}
      {sizeWords(version.section, units)}.{" "}
      {runs.length
        ? `It would change ${count(runs.length, "run")}, ${count(pieces, "piece")}: ${runs
            .slice(0, 3)
            .map((run) => run.name)
            .join(
              ", ",
            )}${runs.length > 3 ? ` and ${runs.length - 3} more` : ""}. ${otherwise ? cutWords(otherwise) : ""}`
        : "No run is made of it here."}{" "}
      <Words onClick={take}>Take it</Words>
    </div>
  );
}

/** Whether two sections are the same, whatever is left out and whatever is said of them as usual. */
function alike(a: object, b: object): boolean {
  const words = (one: unknown): unknown =>
    Array.isArray(one)
      ? one.map(words)
      : one && typeof one === "object"
        ? Object.fromEntries(
            Object.entries(one)
              .filter(([name, value]) => value !== null && name !== "group")
              .sort(([x], [y]) => (x < y ? -1 : 1))
              .map(([name, value]) => [name, words(value)]),
          )
        : one;
  return JSON.stringify(words(a)) === JSON.stringify(words(b));
}
