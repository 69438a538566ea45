/** The eye of the 3D sheet: orbiting, fitting, going to a place, by pointer and by keyboard. */
import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { useShown } from "../window/job";
import { useWindow } from "../window/store";
import { lineOf, runById } from "../window/things";
import { fitPoints } from "./frame";

const compass = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];

export function Camera({ size, tell }: { size: number; tell: (words: string) => void }) {
  const { camera, gl, invalidate, size: sheet } = useThree();
  const shown = useShown();
  const { fit, look, set } = useWindow();
  const controls = useRef<OrbitControls | null>(null);
  const perspective = camera as THREE.PerspectiveCamera;

  useEffect(() => {
    const orbit = new OrbitControls(camera, gl.domElement);
    orbit.maxPolarAngle = Math.PI * 0.495;
    orbit.zoomToCursor = true;
    controls.current = orbit;
    const changed = () => {
      const from = new THREE.Vector3().subVectors(camera.position, orbit.target);
      const bearing = (Math.atan2(from.x, from.y) * 180) / Math.PI;
      tell(`from the ${compass[((Math.round(bearing / 45) % 8) + 8) % 8]}`);
      invalidate();
    };
    orbit.addEventListener("change", changed);
    return () => {
      orbit.removeEventListener("change", changed);
      orbit.dispose();
    };
  }, [camera, gl, invalidate, tell]);

  const wide = sheet.width > 0;
  const fittedFor = useRef<string>("");
  useEffect(() => {
    const orbit = controls.current;
    if (!orbit || !wide) return;
    const first = fittedFor.current === "";
    if (!first && fittedFor.current === String(fit)) return;
    fittedFor.current = String(fit);
    const chosen = fit && !first ? useWindow.getState().selected : [];
    const heights = chosen.length
      ? chosen.flatMap((id) => [runById(shown, id)?.placing?.lift ?? 0, lineOf(shown, id)?.wall?.height ?? 0])
      : [2500];
    const points = fitPoints(shown, chosen).flatMap((point) => [
      new THREE.Vector3(...point),
      new THREE.Vector3(point[0], point[1], point[2] + Math.max(...heights)),
    ]);
    const box = new THREE.Box3().setFromPoints(points);
    const middle = box.getCenter(new THREE.Vector3());
    const from = first
      ? new THREE.Vector3(-0.34, -0.86, 0.6)
      : new THREE.Vector3().subVectors(camera.position, orbit.target);
    from.normalize();
    // As near as every corner still stays in the picture, and the picture in the middle of the sheet.
    const half = Math.tan((perspective.fov * Math.PI) / 360);
    const aspect = sheet.width / sheet.height;
    const right = new THREE.Vector3().crossVectors(new THREE.Vector3(0, 0, 1), from).normalize();
    const up = new THREE.Vector3().crossVectors(from, right);
    let distance = 1500;
    for (let round = 0; round < 4; round++) {
      const seen = points.map((point) => point.clone().sub(middle));
      distance = Math.max(
        1500,
        ...seen.map(
          (away) =>
            away.dot(from) + Math.max(Math.abs(away.dot(right)) / aspect, Math.abs(away.dot(up))) * (1.14 / half),
        ),
      );
      const place = (axis: THREE.Vector3) => {
        const shares = seen.map((away) => away.dot(axis) / (distance - away.dot(from)));
        return ((Math.min(...shares) + Math.max(...shares)) / 2) * distance;
      };
      middle.addScaledVector(right, place(right)).addScaledVector(up, place(up));
    }
    orbit.target.copy(middle);
    camera.position.copy(middle).addScaledVector(from, distance);
    perspective.near = Math.max(20, size / 400);
    perspective.far = size * 12 + distance;
    perspective.updateProjectionMatrix();
    orbit.update();
    invalidate();
  }, [fit, wide, shown, camera, perspective, size, sheet, invalidate]);

  useEffect(() => {
    const orbit = controls.current;
    if (!look || !orbit) return;
    const from = new THREE.Vector3().subVectors(camera.position, orbit.target).normalize();
    orbit.target.set(...look);
    camera.position.copy(orbit.target).addScaledVector(from, Math.min(size / 5, 4500));
    orbit.update();
    set({ look: null });
    invalidate();
  }, [look, camera, size, set, invalidate]);

  useEffect(() => {
    // The keys are the sheet's own while it has the focus; elsewhere they mean something else, and with Ctrl the page's.
    const sheetElement = gl.domElement;
    sheetElement.tabIndex = 0;
    sheetElement.setAttribute("aria-label", "3D: the arrow keys turn it, plus and minus bring it nearer and further");
    const press = (event: KeyboardEvent) => {
      const orbit = controls.current;
      if (!orbit || event.ctrlKey || event.metaKey || event.altKey) return;
      const from = new THREE.Vector3().subVectors(camera.position, orbit.target);
      const turn = { ArrowLeft: -0.1, ArrowRight: 0.1 }[event.key];
      const tilt = { ArrowUp: -0.08, ArrowDown: 0.08 }[event.key];
      if (turn) from.applyAxisAngle(new THREE.Vector3(0, 0, 1), turn);
      else if (tilt) {
        const around = new THREE.Spherical().setFromVector3(new THREE.Vector3(from.y, from.z, from.x));
        around.phi = Math.min(Math.PI * 0.49, Math.max(0.05, around.phi + tilt));
        const moved = new THREE.Vector3().setFromSpherical(around);
        from.set(moved.z, moved.x, moved.y);
      } else if (event.key === "+" || event.key === "=") from.multiplyScalar(0.85);
      else if (event.key === "-") from.multiplyScalar(1 / 0.85);
      else return;
      event.preventDefault();
      camera.position.copy(orbit.target).add(from);
      orbit.update();
      invalidate();
    };
    const focus = () => sheetElement.focus({ preventScroll: true });
    sheetElement.addEventListener("keydown", press);
    sheetElement.addEventListener("pointerdown", focus);
    return () => {
      sheetElement.removeEventListener("keydown", press);
      sheetElement.removeEventListener("pointerdown", focus);
    };
  }, [camera, gl, invalidate]);
  return null;
}
