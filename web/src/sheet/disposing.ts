/** Things of the graphics card that are made here are given back when they are no longer shown. */
import { useEffect } from "react";

export function useDisposed<T extends { dispose(): void }>(thing: T | null): T | null {
  useEffect(() => () => thing?.dispose(), [thing]);
  return thing;
}

/** The same for an object that was made with a shape and a material of its own. */
export function useDisposedObject<
  T extends { geometry: { dispose(): void }; material: { dispose(): void } | { dispose(): void }[] },
>(object: T): T {
  useEffect(
    () => () => {
      object.geometry.dispose();
      for (const material of [object.material].flat()) material.dispose();
    },
    [object],
  );
  return object;
}
