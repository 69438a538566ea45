import { useEffect, useState } from "react";

/** Watch an element's size, whenever it comes and goes. */
export function useSize<E extends Element>() {
  const [element, ref] = useState<E | null>(null);
  const [size, setSize] = useState<{ width: number; height: number }>({ width: 0, height: 0 });
  useEffect(() => {
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [element]);
  return [ref, size, element] as const;
}
