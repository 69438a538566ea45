/** The pictures that lie under what is drawn on the desk. */
import { useState } from "react";
import type { Edit } from "../../api/client";
import { LayPicture } from "../../setting/LayPicture";
import { PictureCard } from "../../setting/PictureCard";
import { Asked } from "../../ui/Asked";
import { Words } from "../../ui/choices";
import { useChanges, useShown } from "../../window/job";

export function TracedFrom({ id }: { id: string }) {
  const shown = useShown();
  const { edit } = useChanges();
  const [open, setOpen] = useState<string | null>(null);
  const pictures = shown.job.pictures?.filter((picture) => picture.on === id) ?? [];
  return (
    <Asked
      question="What is it traced from?"
      answer={pictures.map((picture) => picture.name).join(", ") || "no picture"}
    >
      {pictures.map((picture) => (
        <div key={picture.id}>
          <p className="truncate">{picture.name}</p>
          <p className="flex items-baseline gap-3 pb-1.5">
            <Words
              onClick={() =>
                void edit([{ kind: "set_picture", picture: picture.id, changes: { shown: picture.shown === false } }])
              }
            >
              {picture.shown === false ? "Show it" : "Hide it"}
            </Words>
            <Words onClick={() => setOpen(open === picture.id ? null : picture.id)}>
              {open === picture.id ? "Done" : "Set it to scale"}
            </Words>
            <Words onClick={() => void edit([{ kind: "remove", ids: [picture.id] } as unknown as Edit])}>
              Remove it
            </Words>
          </p>
          {open === picture.id && <PictureCard picture={picture} />}
        </div>
      ))}
      <p>
        <LayPicture under={{ id }} />
      </p>
    </Asked>
  );
}
