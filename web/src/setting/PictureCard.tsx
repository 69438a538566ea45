/** A picture under the plan: to scale, turned, faded, locked, shown or hidden. */
import { useContext, useRef, useState } from "react";
import { answer, api, type Edit, type Picture, type PictureFigures, problemOf } from "../api/client";
import { Button, Tick } from "../ui/choices";
import { AngleField, FigureField, figuresTaken, LengthField, Question, readLength, TextField } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { JobId, useChanges, useUnits } from "../window/job";
import { usePart } from "../window/store";

export function PictureCard({ picture }: { picture: Picture }) {
  const { edit } = useChanges();
  const units = useUnits();
  const job = useContext(JobId);
  const { set } = usePart("set");
  const change = (changes: object) => edit([{ kind: "set_picture", picture: picture.id, changes } as Edit]);
  const [known, setKnown] = useState("1 m");
  const [wrong, setWrong] = useState("");
  const toScale = async () => {
    try {
      const length = await readLength(known, units.system ?? "mm", job);
      setWrong("");
      set({
        plane: null,
        view: "plan",
        picking: {
          ask: [`Two places in the picture ${known} apart: the first …`, "… and the second"],
          spots: [],
          done: ([a, b]) => {
            if (!a || !b) return;
            const [from, to] = [a.point.slice(0, 2), b.point.slice(0, 2)];
            void edit([{ kind: "scale_picture", picture: picture.id, a: from, b: to, length } as Edit]);
          },
        },
      });
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
  };
  return (
    <>
      <TextField label="Name of the picture" value={picture.name} take={(name) => change({ name })} />
      <p className="text-pencil">
        {picture.across} × {picture.high} pixels
      </p>
      <Question>How large is it?</Question>
      <label className="mb-1 flex min-h-7 items-center justify-between gap-3 text-sm">
        <span className="text-pencil">A length known in it</span>
        <input
          className="figure h-7 w-[92px] rounded-[3px] border border-edge bg-paper px-2 text-right"
          value={known}
          onChange={(event) => setKnown(event.target.value)}
        />
      </label>
      {wrong && (
        <p role="alert" className="text-red text-xs">
          {wrong}
        </p>
      )}
      <Button onClick={() => void toScale()}>Pick its two ends</Button>
      <div className="mt-2">
        <LengthField
          label="Width of the whole"
          mm={picture.across * picture.scale}
          take={(mm) => change({ scale: mm / picture.across })}
        />
      </div>
      <Question>Where does it lie?</Question>
      <LengthField label="East" mm={picture.east ?? 0} take={(east) => change({ east })} />
      <LengthField label="North" mm={picture.north ?? 0} take={(north) => change({ north })} />
      <AngleField label="Rotation" degrees={picture.turn ?? 0} take={(turn) => change({ turn })} />
      <p className="text-pencil text-sm">Of its lower left corner. Unlocked, it can be dragged.</p>
      <Question>How is it shown?</Question>
      <FigureField
        label="Opacity"
        value={String(Math.round((picture.strength ?? 0.5) * 100))}
        unit="%"
        take={async (text) => {
          const share = Number(text) / 100;
          if (!(share >= 0.05 && share <= 1)) return problemOf(new Error("The opacity goes from 5 to 100 %."));
          return change({ strength: share });
        }}
      />
      <Tick label="Locked in its place" checked={picture.locked ?? false} set={(locked) => change({ locked })} />
      <Tick label="Shown" checked={picture.shown ?? true} set={(on) => change({ shown: on })} />
    </>
  );
}

/** Choose a picture and lay it under the plan, with a page of a PDF chosen by number. */
export function LayPicture() {
  const { make } = useChanges();
  const { select, set } = usePart("select", "set");
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  // A PDF of several pages, of which one is to be chosen.
  const [paged, setPaged] = useState<{ file: File; pages: number; page: number } | null>(null);
  const latest = useRef(paged);
  latest.current = paged;
  const lay = async (file: File | undefined, page: number | null = null) => {
    if (!file) return;
    setBusy(true);
    setPaged(null);
    try {
      const form = new FormData();
      form.append("file", file);
      const read = await answer<PictureFigures>(
        api.POST("/api/pictures", {
          params: { query: { page: page ?? 0 } },
          body: form as never,
          bodySerializer: (body) => body as never,
        }),
      );
      if (read.pages > 1 && page === null) {
        setPaged({ file, pages: read.pages, page: 1 });
        setBusy(false);
        return;
      }
      // A file that does not say how large it is, is laid ten metres wide, to be set to scale.
      const scale = read.scale ?? 10_000 / read.across;
      const picture = {
        name: file.name.slice(0, 120),
        content: read.content,
        page: read.page,
        across: read.across,
        high: read.high,
        scale,
      };
      const { problem, made } = await make([{ kind: "add_picture", picture } as Edit]);
      if (!problem) {
        select(made);
        const told = read.note || "Underlay added.";
        set({ view: "plan", notice: `${told} Set it to scale by two places whose distance you know.` });
      }
    } catch (error) {
      set({ problem: problemOf(error) });
    }
    setBusy(false);
  };
  return (
    <>
      <button
        type="button"
        disabled={busy}
        onClick={() => input.current?.click()}
        className="cursor-pointer whitespace-nowrap text-chalk-deep text-sm underline decoration-chalk/30 underline-offset-[3px] hover:decoration-chalk disabled:text-pencil"
      >
        {busy ? "Reading the picture …" : "Add an underlay"}
      </button>
      {paged && (
        <Modal title={`Which page of ${paged.file.name}?`} close={() => setPaged(null)}>
          <FigureField
            label={`Page, 1 to ${paged.pages}`}
            value={String(paged.page)}
            unit=""
            take={async (text) => {
              const page = Number(text);
              if (!Number.isInteger(page) || page < 1 || page > paged.pages)
                return problemOf(new Error(`There are ${paged.pages} pages: type a number from 1 to ${paged.pages}.`));
              setPaged({ ...paged, page });
              return null;
            }}
          />
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setPaged(null)}>Cancel</Button>
            <Button
              strong
              onClick={() =>
                void figuresTaken().then((right) => {
                  if (right) void lay(latest.current?.file, (latest.current?.page ?? 1) - 1);
                })
              }
            >
              Add to job
            </Button>
          </div>
        </Modal>
      )}
      <input
        ref={input}
        type="file"
        accept=".png,.jpg,.jpeg,.pdf"
        aria-label="Picture file"
        className="hidden"
        onChange={(event) => {
          void lay(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
    </>
  );
}
