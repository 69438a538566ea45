/** What may follow a frame after the rest: a long card shows its head at once and what is further down when that is drawn. */
import { type ReactNode, useDeferredValue } from "react";

export function Later({ children }: { children: ReactNode }) {
  return useDeferredValue(true, false) ? children : null;
}
