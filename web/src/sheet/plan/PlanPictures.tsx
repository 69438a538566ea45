/** Pictures that are traced: under the plan, or on the desk under what is drawn there. */
import { useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { useWindow } from "../../window/store";
import { type Sheet, toSheet } from "./frame";

type Placed = NonNullable<ReturnType<typeof useShown>["job"]["pictures"]>[number];

const sizeOf = (picture: Placed) => ({ width: picture.across * picture.scale, height: picture.high * picture.scale });

/** Something for each picture that is shown, in the picture's own place: its corner at 0, y up, mm of the job. */
function InPlace({ frame, width, height, draw }: Sheet & { draw: (picture: Placed) => React.ReactNode }) {
  const shown = useShown();
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  return (
    <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`}>
      {shown.job.pictures
        ?.filter((picture) => picture.shown !== false && !picture.on)
        .map((picture) => (
          <g
            key={picture.id}
            transform={`translate(${picture.east ?? 0} ${picture.north ?? 0}) rotate(${picture.turn ?? 0})`}
          >
            {draw(picture)}
          </g>
        ))}
    </g>
  );
}

export function PlanPictures(sheet: Sheet) {
  return <InPlace {...sheet} draw={(picture) => <Image picture={picture} />} />;
}

function Image({ picture }: { picture: Placed }) {
  return (
    <image
      href={`/api/pictures/${picture.content}/${picture.page ?? 0}.png`}
      {...sizeOf(picture)}
      // The picture's own y runs down.
      transform={`translate(0 ${sizeOf(picture).height}) scale(1 -1)`}
      preserveAspectRatio="none"
      opacity={picture.strength ?? 0.5}
    />
  );
}

/** The pictures that lie under a section or a draft; `at` tells where a place of its drawing comes to, `scale` pixels a mm. */
export function DeskPictures({
  on,
  at,
  scale,
}: {
  on: string;
  at: (spot: [number, number]) => number[];
  scale: number;
}) {
  const shown = useShown();
  const [tx, ty] = at([0, 0]);
  return (
    <g transform={`matrix(${scale} 0 0 ${-scale} ${tx} ${ty})`} pointerEvents="none">
      {shown.job.pictures
        ?.filter((picture) => picture.shown !== false && picture.on === on)
        .map((picture) => (
          <g
            key={picture.id}
            transform={`translate(${picture.east ?? 0} ${picture.north ?? 0}) rotate(${picture.turn ?? 0})`}
          >
            <Image picture={picture} />
          </g>
        ))}
    </g>
  );
}

/** What a picture that is not locked is taken by, and the frame of a selected one. */
export function PictureHandles(sheet: Sheet) {
  const selected = useWindow((state) => state.selected);
  return (
    <InPlace
      {...sheet}
      draw={(picture) => (
        <>
          {!picture.locked && (
            <rect {...sizeOf(picture)} fill="transparent" data-picture={picture.id} className="cursor-move">
              <title>{picture.name}</title>
            </rect>
          )}
          {isIn(selected, picture.id) && (
            <rect
              {...sizeOf(picture)}
              fill="none"
              stroke="var(--color-chalk)"
              strokeDasharray="6 4"
              vectorEffect="non-scaling-stroke"
            />
          )}
        </>
      )}
    />
  );
}
