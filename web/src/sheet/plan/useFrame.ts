/** The plan's frame as it is fitted, moved and scaled, and as it keeps still when the card comes and goes. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useShown } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import type { View } from "../elevation/plane";
import { boxOf, type Frame, fitPoints, fitted, toJob } from "./frame";

/** Width of the card, px. */
const CARD = 306;

export function useFrame(element: SVGSVGElement | null, width: number, height: number, view: View) {
  const shown = useShown();
  // A frame and the width of the sheet it was set for: the drawing keeps to the sheet's left edge when its right one moves,
  // so that it does not jump under the hand when the card comes and goes.
  const [kept, setKept] = useState<{ frame: Frame; width: number } | null>(null);
  const frame = useMemo(() => kept && beside(kept, width), [kept, width]);
  const widthNow = useRef(width);
  widthNow.current = width;
  const setFrame = useCallback((next: Frame | ((old: Frame) => Frame)) => {
    const now = widthNow.current;
    setKept((old) => {
      if (typeof next !== "function") return { frame: next, width: now };
      return old && { frame: next(beside(old, now)), width: now };
    });
  }, []);
  const { selected, fit, look, set } = usePart("selected", "fit", "look", "set");

  // What is fitted or brought to the middle is laid out beside the card from the first, whether that
  // is there already, is just coming (the element knows before the state does), or not yet.
  const carded = selected.length > 0;
  const room = (scale: number) => {
    const now = element?.getBoundingClientRect().width ?? width;
    const free = Math.max(200, carded ? now : now - CARD);
    return { free, shift: (width - free) / 2 / scale };
  };
  const roomNow = useRef(room);
  roomNow.current = room;
  const fittedFor = useRef(-1);
  useLayoutEffect(() => {
    if (!width || fittedFor.current === fit) return;
    // When the sheet first has a size, and whenever it is asked for.
    fittedFor.current = fit;
    const box = boxOf(fitPoints(shown, fit ? useWindow.getState().selected : []));
    const found = fitted(box, roomNow.current(1).free, height);
    setFrame({ ...found, x: found.x + roomNow.current(found.scale).shift });
  }, [width, height, fit, shown, setFrame]);
  useEffect(() => {
    if (!look || !width) return;
    const [x, y] = view.to(look);
    setFrame((old) => {
      const scale = Math.max(old.scale, 0.25);
      return { x: x + roomNow.current(scale).shift, y, scale };
    });
    set({ look: null });
  }, [look, width, set, view, setFrame]);

  // React listens to wheels passively; the sheet must keep the page from scrolling.
  useEffect(() => {
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      zoom(Math.exp(-event.deltaY * 0.0015), event.clientX - box.left, event.clientY - box.top);
    };
    const zoom = (times: number, px: number, py: number) => {
      setFrame((old) => {
        const [x, y] = toJob(old, box().width, box().height, px, py);
        const scale = Math.min(20, Math.max(1e-6, old.scale * times));
        const by = old.scale / scale;
        return { x: x + (old.x - x) * by, y: y + (old.y - y) * by, scale };
      });
    };
    const box = () => element.getBoundingClientRect();
    const press = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLElement && event.target.matches("input, textarea")) return;
      if (event.key === "+" || event.key === "=") zoom(1.25, box().width / 2, box().height / 2);
      else if (event.key === "-") zoom(0.8, box().width / 2, box().height / 2);
      else if (event.target === element && event.key.startsWith("Arrow")) {
        event.preventDefault();
        const [dx = 0, dy = 0] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
          event.key
        ] ?? [0, 0];
        setFrame((old) => ({ ...old, x: old.x + (dx * 60) / old.scale, y: old.y + (dy * 60) / old.scale }));
      }
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener("keydown", press);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", press);
    };
  }, [element, setFrame]);
  return [frame, setFrame] as const;
}

/** A frame for a sheet of another width that shows the same at its left edge. */
function beside({ frame, width }: { frame: Frame; width: number }, now: number): Frame {
  return now === width ? frame : { ...frame, x: frame.x + (now - width) / 2 / frame.scale };
}
