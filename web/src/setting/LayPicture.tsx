/** A picture chosen and laid to be traced, with a page of a PDF chosen by number. */
import { useRef, useState } from "react";
import { answer, api, type Edit, type PictureFigures, problemOf } from "../api/client";
import { Button } from "../ui/choices";
import { FigureField, figuresTaken } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { useChanges } from "../window/job";
import { usePart } from "../window/store";

/** Where a picture is laid: under the plan, under a section or a draft, or under a draft that begins with it. */
type Under = "plan" | "new" | { id: string };

export function LayPicture({ under = "plan" }: { under?: Under }) {
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
      // A file that does not say how large it is, is laid ten metres wide, or as wide as a section, to be set to scale.
      const scale = read.scale ?? (under === "plan" ? 10_000 : 200) / read.across;
      let on = typeof under === "object" ? under.id : null;
      if (under === "new") {
        const name = file.name.replace(/\.\w+$/, "").slice(0, 120) || "Traced";
        const { problem, made } = await make([{ kind: "keep_draft", draft: { name } } as unknown as Edit]);
        if (problem) throw new Error(problem.detail);
        on = made[0] ?? null;
      }
      const picture = {
        name: file.name.slice(0, 120),
        content: read.content,
        page: read.page,
        across: read.across,
        high: read.high,
        scale,
        on,
      };
      const { problem, made } = await make([{ kind: "add_picture", picture } as Edit]);
      if (!problem) {
        const words = read.note || (under === "plan" ? "Underlay added." : "Picture laid on the desk.");
        if (under === "new" && on) select([on]);
        if (under === "plan") select(made);
        set({
          ...(under === "plan" && { view: "plan" as const }),
          notice: `${words} Set it to scale by two places whose distance you know.`,
        });
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
        {busy ? "Reading the picture …" : under === "plan" ? "Add an underlay" : "Trace a picture"}
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
        aria-label={under === "plan" ? "Picture file" : under === "new" ? "File to trace" : "File for this desk"}
        className="hidden"
        onChange={(event) => {
          void lay(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
    </>
  );
}
