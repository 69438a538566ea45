/** The eye of the 3D sheet: orbiting, fitting, going to a place, by pointer and by keyboard. */
import { useThree } from "@react-three/fiber";
import { useCallback, useEffect, useRef } from "react";
import * as THREE from "three";
import { useShown } from "../../window/job";
import { usePart, useWindow } from "../../window/store";
import { lineOf, runById } from "../../window/things";
import { fitPoints } from "../plan/frame";
import { FIRST, standBack, useOrbit } from "./orbit";

const compass = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];

export function Camera({ size, tell }: { size: number; tell: (words: string) => void }) {
  const { camera, invalidate, size: sheet } = useThree();
  const shown = useShown();
  const { fit, look, set } = usePart("fit", "look", "set");
  const changed = useCallback(
    (from: THREE.Vector3) => {
      const bearing = (Math.atan2(from.x, from.y) * 180) / Math.PI;
      tell(`from the ${compass[((Math.round(bearing / 45) % 8) + 8) % 8]}`);
    },
    [tell],
  );
  const controls = useOrbit(changed);
  const perspective = camera as THREE.PerspectiveCamera;

  const wide = sheet.width > 0;
  const fittedFor = useRef<string>("");
  useEffect(() => {
    const orbit = controls.current;
    if (!orbit || !wide) return;
    const first = fittedFor.current === "";
    if (!first && fittedFor.current === String(fit)) return;
    fittedFor.current = String(fit);
    // Opened with something selected, it looks at that.
    const chosen = fit || first ? useWindow.getState().selected.filter((id) => lineOf(shown, id)) : [];
    const heights = chosen.length
      ? chosen.flatMap((id) => [runById(shown, id)?.placing?.lift ?? 0, lineOf(shown, id)?.wall?.height ?? 0])
      : [2500];
    const points = fitPoints(shown, chosen).flatMap((point) => [
      new THREE.Vector3(...point),
      new THREE.Vector3(point[0], point[1], point[2] + Math.max(...heights)),
    ]);
    const from = first ? FIRST.clone() : new THREE.Vector3().subVectors(camera.position, orbit.target);
    const distance = standBack(perspective, orbit, points, from, sheet.width / sheet.height, 1500);
    perspective.near = Math.max(20, size / 400);
    perspective.far = size * 12 + distance;
    perspective.updateProjectionMatrix();
    orbit.update();
    invalidate();
  }, [fit, wide, shown, camera, perspective, size, sheet, invalidate, controls]);

  useEffect(() => {
    const orbit = controls.current;
    if (!look || !orbit) return;
    const from = new THREE.Vector3().subVectors(camera.position, orbit.target).normalize();
    orbit.target.set(...look);
    camera.position.copy(orbit.target).addScaledVector(from, Math.min(size / 5, 4500));
    orbit.update();
    set({ look: null });
    invalidate();
  }, [look, camera, size, set, invalidate, controls]);
  return null;
}
