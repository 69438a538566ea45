/** A picture under the plan: to scale, turned, faded, locked, shown or hidden. */
import { useContext, useState } from "react";
import { type Edit, type Picture, problemOf } from "../api/client";
import { Asked } from "../ui/Asked";
import { Button, Tick } from "../ui/choices";
import { AngleField, FigureField, LengthField, readLength, TextField } from "../ui/fields";
import { formatLength } from "../ui/figures";
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
      if (picture.on) {
        set({ scaling: { picture: picture.id, length, words: known, first: null }, notice: null });
        return;
      }
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
      <Asked question="How large is it?" answer={`${formatLength(picture.across * picture.scale, units)} wide`}>
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
      </Asked>
      <Asked
        question="Where does it lie?"
        answer={`${formatLength(picture.east ?? 0, units)}; ${formatLength(picture.north ?? 0, units)}`}
      >
        <LengthField
          label={picture.on ? "To the right" : "East"}
          mm={picture.east ?? 0}
          take={(east) => change({ east })}
        />
        <LengthField label={picture.on ? "Up" : "North"} mm={picture.north ?? 0} take={(north) => change({ north })} />
        <AngleField label="Rotation" degrees={picture.turn ?? 0} take={(turn) => change({ turn })} />
        <p className="text-pencil text-sm">Of its lower left corner.{!picture.on && " Unlocked, it can be dragged."}</p>
      </Asked>
      <Asked
        question="How is it shown?"
        answer={picture.shown === false ? "hidden" : `at ${Math.round((picture.strength ?? 0.5) * 100)} %`}
      >
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
        {!picture.on && (
          <Tick label="Locked in its place" checked={picture.locked ?? false} set={(locked) => change({ locked })} />
        )}
        <Tick label="Shown" checked={picture.shown ?? true} set={(on) => change({ shown: on })} />
      </Asked>
    </>
  );
}
