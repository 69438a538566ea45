/** The part of the window that each view is. */
import { type ComponentType, lazy, type ReactNode, Suspense, useRef } from "react";
import { CutAcross } from "../across/CutAcross";
import { CuttingList } from "../cutting/CuttingList";
import { BringIn } from "../import/BringIn";
import { Library } from "../sectiondesk/library/Library";
import { SectionDesk } from "../sectiondesk/SectionDesk";
import { MeasuredDimension } from "../setting/MeasuredDimension";
import { Plan } from "../sheet/plan/Plan";
import { useWindow } from "./store";
import { VIEWS, type View, wayOf } from "./views";

// three.js is only fetched when the job is looked at in 3D.
const Solid = lazy(() => import("../sheet/solid/Solid").then((part) => ({ default: part.Solid })));

const PARTS: Record<View, ComponentType> = {
  plan: () => (
    <>
      <Plan />
      <MeasuredDimension />
    </>
  ),
  solid: () => (
    <Suspense fallback={<p className="p-6 pt-14 text-pencil">Setting up the view …</p>}>
      <Solid />
    </Suspense>
  ),
  across: CutAcross,
  cutting: CuttingList,
  section: SectionDesk,
  library: Library,
  bringin: BringIn,
};

/** The view that is shown, and those whose choices stay, out of sight. */
export function Panels() {
  const view = useWindow((state) => state.view);
  return VIEWS.map((way) => {
    const Part = PARTS[way.view];
    const on = view === way.view;
    if (wayOf(way.view).kept)
      return (
        <Kept key={way.view} when={on}>
          <Part />
        </Kept>
      );
    return on ? <Part key={way.view} /> : null;
  });
}

/** A view whose choices stay while another is looked at. */
function Kept({ when, children }: { when: boolean; children: ReactNode }) {
  const met = useRef(false);
  met.current ||= when;
  return met.current ? (
    <div hidden={!when} className="h-full">
      {children}
    </div>
  ) : null;
}
