import { emptyDraft } from "../../drafting/draft";
import { usePart } from "../../window/store";

export function EmptyPlan() {
  const { show, set } = usePart("show", "set");
  return (
    <div className="-translate-x-1/2 -translate-y-1/2 absolute top-1/2 left-1/2 w-[420px] rounded-[4px] border border-rule bg-paper p-5">
      <h2 className="mb-1 font-semibold text-lg">Start with the lines</h2>
      <p className="mb-3 text-pencil">
        A line is what a moulding, rail, fence or row of lights follows. Draw it, type it as a walk, or import a
        drawing, a model or a list of points and let its loose edges be joined.
      </p>
      <div className="flex gap-2">
        <button
          type="button"
          className="h-7 cursor-pointer rounded-[3px] bg-ink px-3 text-paper text-sm"
          onClick={() => set({ dialog: null, draft: { ...emptyDraft } })}
        >
          Draw a line
        </button>
        <button
          type="button"
          className="h-7 cursor-pointer rounded-[3px] border border-edge bg-paper px-3 text-sm"
          onClick={() => set({ dialog: "walk" })}
        >
          Type a walk
        </button>
        <button
          type="button"
          className="h-7 cursor-pointer rounded-[3px] border border-edge bg-paper px-3 text-sm"
          onClick={() => show("bringin")}
        >
          Import a drawing
        </button>
      </div>
    </div>
  );
}
