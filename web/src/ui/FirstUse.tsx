/** What can be done in a part of the window, said in place when it is first used, and not again. */
import { useEffect, useState } from "react";
import { Words } from "./choices";

/** Where this browser keeps which parts have been used, with spaces between. */
const KEPT = "slow-ribbon-met";

const met = () => (localStorage.getItem(KEPT) ?? "").split(" ").filter(Boolean);

export function FirstUse({ part, acts }: { part: "rod" | "desk" | "cut"; acts: string[] }) {
  const [shown, setShown] = useState(() => !met().includes(part));
  // Once it has been there it is known, whether it is put away or the part is left.
  useEffect(() => localStorage.setItem(KEPT, [...new Set([...met(), part])].join(" ")), [part]);
  if (!shown) return null;
  return (
    <div
      role="note"
      className="flex items-baseline gap-x-4 border-chalk border-l-[3px] bg-chalk-wash px-3 py-1 text-sm"
    >
      <span>{acts.join(" · ")}</span>
      <span className="ml-auto whitespace-nowrap">
        <Words onClick={() => setShown(false)}>Got it</Words>
      </span>
    </div>
  );
}
