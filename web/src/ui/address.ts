import { useSyncExternalStore } from "react";

function watch(changed: () => void) {
  window.addEventListener("popstate", changed);
  return () => window.removeEventListener("popstate", changed);
}

/** The path of the page that is shown. */
export function useAddress(): string {
  return useSyncExternalStore(watch, () => window.location.pathname);
}

export function go(path: string) {
  window.history.pushState(null, "", path);
  window.dispatchEvent(new PopStateEvent("popstate"));
}
