/** Making lines from lines: beside one, copied, moved, turned, mirrored, simpler. */
import { useQuery } from "@tanstack/react-query";
import { useContext, useState } from "react";
import { answer, api, type Edit, problemOf, type Simpler } from "../api/client";
import { Choice, Tick } from "../ui/choices";
import { AngleField, FigureField, LengthField, useForm } from "../ui/fields";
import { count, formatLength } from "../ui/figures";
import { Modal, ModalFoot } from "../ui/Modal";
import { JobId, useChanges, useShown, useUnits } from "../window/job";
import { useWindow } from "../window/store";
import { lineById } from "../window/things";

function useChosenLines() {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  return selected.map((id) => lineById(shown, id)).filter((line) => line !== undefined);
}

export function Beside({ close }: { close: () => void }) {
  const { make: send } = useChanges();
  const line = useChosenLines()[0];
  const { values, put, settled } = useForm({ distance: 150, side: "left" as "left" | "right", follows: true });
  const [wrong, setWrong] = useState("");
  if (!line) return null;
  const make = async () => {
    const now = await settled();
    if (!now) return;
    const name = `${line.name}, beside`.slice(0, 120);
    const distance = now.side === "left" ? -now.distance : now.distance;
    const made = { kind: "offset" as const, line: line.id, distance };
    const { problem } = await send([{ kind: "add_made", name, made, follows: now.follows }], (ids) => {
      useWindow.getState().selectAlike(ids);
      close();
    });
    if (problem) setWrong(problem.detail);
  };
  return (
    <Modal title={`Offset line of ${line.name}`} close={close}>
      <LengthField
        label="Distance, on plan"
        mm={values.distance}
        take={async (mm) => {
          put({ distance: Math.abs(mm) });
          return null;
        }}
      />
      <Choice
        label="Side"
        value={values.side}
        ways={[
          ["left", "Left of travel"],
          ["right", "Right of travel"],
        ]}
        choose={(side) => put({ side })}
      />
      <Tick label="It follows when the line changes" checked={values.follows} set={(follows) => put({ follows })} />
      <ModalFoot close={close} words="Make the line" act={() => void make()} wrong={wrong} />
    </Modal>
  );
}

type Way = "move" | "copy" | "mirror";

export function CopyLines({ close }: { close: () => void }) {
  const { edit } = useChanges();
  const lines = useChosenLines();
  const { values, put, settled } = useForm(() => {
    const first = lines[0]?.start ?? [0, 0, 0];
    const about = [first[0] as number, first[1] as number];
    return {
      way: "copy" as Way,
      by: [1000, 0, 0],
      turn: 0,
      about,
      times: 1,
      other: [about[0] ?? 0, (about[1] ?? 0) + 1000],
      keeps: true,
    };
  });
  const { way, by, turn, about, times, other, keeps } = values;
  const [wrong, setWrong] = useState("");
  const ids = lines.map((line) => line.id);
  const make = async () => {
    const now = await settled();
    if (!now) return;
    const made =
      now.way === "mirror"
        ? { kind: "mirror_lines", lines: ids, a: [...now.about, 0], b: [...now.other, 0], copies: now.keeps }
        : {
            kind: "copy_lines",
            lines: ids,
            by: now.by,
            turn: now.turn,
            about: [...now.about, 0],
            times: now.way === "copy" ? now.times : 1,
            copies: now.way === "copy",
          };
    const problem = await edit([made as Edit]);
    if (problem) setWrong(problem.detail);
    else close();
  };
  /** Take one figure of several, leaving the others as they have become meanwhile. */
  const set = (name: "by" | "about" | "other", index: number) => async (mm: number) => {
    put((now) => ({ [name]: now[name].map((value, i) => (i === index ? mm : value)) }));
    return null;
  };
  return (
    <Modal title={`Copy, move or mirror ${count(lines.length, "line")}`} close={close}>
      <Choice
        label="What is done"
        value={way}
        ways={[
          ["copy", "Copy"],
          ["move", "Move"],
          ["mirror", "Mirror"],
        ]}
        choose={(way) => put({ way })}
      />
      <div className="mt-2">
        {way === "mirror" ? (
          <>
            <p className="text-pencil text-sm">In the upright plane through two points.</p>
            <LengthField label="First, east" mm={about[0] ?? 0} take={set("about", 0)} />
            <LengthField label="First, north" mm={about[1] ?? 0} take={set("about", 1)} />
            <LengthField label="Second, east" mm={other[0] ?? 0} take={set("other", 0)} />
            <LengthField label="Second, north" mm={other[1] ?? 0} take={set("other", 1)} />
            <Tick label="Keep the lines, add their mirror images" checked={keeps} set={(keeps) => put({ keeps })} />
          </>
        ) : (
          <>
            {(["East", "North", "Up"] as const).map((name, axis) => (
              <LengthField key={name} label={`By, ${name.toLowerCase()}`} mm={by[axis] ?? 0} take={set("by", axis)} />
            ))}
            <AngleField
              label="Turned, anticlockwise"
              degrees={turn}
              take={async (degrees) => {
                put({ turn: degrees });
                return null;
              }}
            />
            {turn !== 0 && (
              <>
                <LengthField label="About, east" mm={about[0] ?? 0} take={set("about", 0)} />
                <LengthField label="About, north" mm={about[1] ?? 0} take={set("about", 1)} />
              </>
            )}
            {way === "copy" && (
              <FigureField
                label="How many times"
                value={String(times)}
                unit=""
                take={async (text) => {
                  const number = Math.round(Number(text));
                  if (!(number >= 1 && number <= 1000))
                    return problemOf(new Error("From 1 to 1000 copies can be made at once."));
                  put({ times: number });
                  return null;
                }}
              />
            )}
          </>
        )}
      </div>
      <ModalFoot
        close={close}
        words={way === "move" ? "Move" : way === "copy" ? "Copy" : "Mirror"}
        act={() => void make()}
        wrong={wrong}
      />
    </Modal>
  );
}

export function Simplify({ close }: { close: () => void }) {
  const job = useContext(JobId);
  const { revision } = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const lines = useChosenLines();
  const ids = lines.map((line) => line.id);
  const { values, put, settled } = useForm({ tolerance: 5 });
  const { tolerance } = values;
  const [wrong, setWrong] = useState("");
  const { data } = useQuery({
    queryKey: ["simpler", job, revision, ids, tolerance],
    queryFn: () =>
      answer<Simpler>(
        api.POST("/api/jobs/{id}/simpler", { params: { path: { id: job } }, body: { lines: ids, tolerance } }),
      ),
    retry: 0,
  });
  const make = async () => {
    const now = await settled();
    if (!now) return;
    const problem = await edit([{ kind: "simplify_lines", lines: ids, tolerance: now.tolerance }]);
    if (problem) setWrong(problem.detail);
    else close();
  };
  return (
    <Modal title={`Simplify ${count(lines.length, "line")}`} close={close}>
      <p className="mb-2 text-pencil text-sm">
        Points of straights that deviate no more than this are removed. Curves, rounded corners and ends stay.
      </p>
      <LengthField
        label="Maximum deviation"
        mm={tolerance}
        take={async (mm) => {
          if (!(mm > 0)) return problemOf(new Error("Give a distance greater than zero."));
          put({ tolerance: mm });
          return null;
        }}
      />
      <p role="status" className="mt-1 rounded-[3px] bg-lath px-2.5 py-1.5 text-sm">
        {data ? (
          <>
            <b className="figure">{data.before}</b> points become <b className="figure">{data.after}</b>; the{" "}
            {lines.length === 1 ? "line deviates" : "lines deviate"} by{" "}
            <b className="figure">
              {formatLength(data.strays, { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 })}
            </b>{" "}
            at most.
          </>
        ) : (
          "…"
        )}
      </p>
      <ModalFoot close={close} words="Simplify" act={() => void make()} wrong={wrong} />
    </Modal>
  );
}
