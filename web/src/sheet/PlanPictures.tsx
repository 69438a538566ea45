/** Pictures under the plan. */
import { useShown } from "../window/job";
import { isIn } from "../window/selection";
import { useWindow } from "../window/store";
import { type Frame, toSheet } from "./frame";

export function PlanPictures({ frame, width, height }: { frame: Frame; width: number; height: number }) {
  const shown = useShown();
  const selected = useWindow((state) => state.selected);
  const [tx, ty] = toSheet(frame, width, height, 0, 0);
  return (
    <g transform={`matrix(${frame.scale} 0 0 ${-frame.scale} ${tx} ${ty})`}>
      {shown.job.pictures
        ?.filter((picture) => picture.shown !== false)
        .map((picture) => {
          const [across, high] = [picture.across * picture.scale, picture.high * picture.scale];
          const locked = picture.locked ?? false;
          return (
            <g
              key={picture.id}
              transform={`translate(${picture.east ?? 0} ${picture.north ?? 0}) rotate(${picture.turn ?? 0})`}
            >
              <image
                href={`/api/pictures/${picture.content}/${picture.page ?? 0}.png`}
                width={across}
                height={high}
                // The picture's own y runs down.
                transform={`translate(0 ${high}) scale(1 -1)`}
                preserveAspectRatio="none"
                opacity={picture.strength ?? 0.5}
                pointerEvents={locked ? "none" : "auto"}
                data-picture={locked ? undefined : picture.id}
                className={locked ? "" : "cursor-move"}
              >
                <title>{picture.name}</title>
              </image>
              {isIn(selected, picture.id) && (
                <rect
                  width={across}
                  height={high}
                  fill="none"
                  stroke="var(--color-chalk)"
                  strokeDasharray="6 4"
                  vectorEffect="non-scaling-stroke"
                />
              )}
            </g>
          );
        })}
    </g>
  );
}
