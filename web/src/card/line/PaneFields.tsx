/** What a pane is made of: glass, mesh or boards, how thick it is, and how its boards lie. */
import type { Line, Problem } from "../../api/client";
import { Choice } from "../../ui/choices";
import { LengthField } from "../../ui/fields";

export type Pane = Partial<NonNullable<Line["pane"]>>;

const USUAL = { glass: 8, mesh: 4, boards: 18 } as const;

interface Props {
  pane: Pane | null;
  /** Take a pane as it is now; none where it is taken out. */
  put: (pane: Pane | null) => Promise<Problem | null>;
}

export function PaneFields({ pane, put }: Props) {
  const change = (part: Partial<Pane>) => put({ ...pane, ...part });
  return (
    <>
      <Choice
        label="What fills it"
        value={pane?.of ?? "none"}
        ways={[
          ["none", "Nothing"],
          ["glass", "Glass"],
          ["mesh", "Mesh"],
          ["boards", "Boards"],
        ]}
        choose={(of) => void (of === "none" ? put(null) : change({ of, thickness: USUAL[of] }))}
      />
      {pane && (
        <div className="mt-1.5">
          <LengthField
            label="Thickness"
            mm={pane.thickness ?? USUAL.glass}
            take={(thickness) => change({ thickness })}
          />
          {pane.of === "boards" && (
            <>
              <Choice
                label="How boards lie"
                value={pane.way ?? "upright"}
                ways={[
                  ["upright", "Upright"],
                  ["level", "Level"],
                ]}
                choose={(way) => void change({ way })}
              />
              <LengthField label="Width of a board" mm={pane.board ?? 120} take={(board) => change({ board })} />
              <LengthField label="Gap between boards" mm={pane.gap ?? 5} take={(gap) => change({ gap })} />
            </>
          )}
        </div>
      )}
    </>
  );
}
