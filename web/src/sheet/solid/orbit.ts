/** Turning a 3D view about what is looked at, by pointer and by keyboard, and where to stand so that all of it is seen. */
import { useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

/** From where a view is first looked at: from the south-south-west and above. */
export const FIRST = new THREE.Vector3(-0.34, -0.86, 0.6);

/** Orbiting for the view this is drawn in; `changed` is notified where the eye stands from what is looked at; `below`: it may go under it. */
export function useOrbit(changed?: (from: THREE.Vector3) => void, below = false): RefObject<OrbitControls | null> {
  const { gl, invalidate, scene, set, setEvents } = useThree();
  const camera = useThree((state) => state.camera) as THREE.PerspectiveCamera;
  const controls = useRef<OrbitControls | null>(null);
  useEffect(() => {
    const orbit = new OrbitControls(camera, gl.domElement);
    orbit.maxPolarAngle = Math.PI * (below ? 1 : 0.495);
    orbit.zoomToCursor = true;
    controls.current = orbit;
    // Whatever else depends on what is looked at finds it there.
    set({ controls: orbit });
    // The wheel goes to the place pointed at: what is looked at comes as near as that before the eye moves.
    const ray = new THREE.Raycaster();
    let pointed = "";
    const aim = (event: WheelEvent) => {
      const box = gl.domElement.getBoundingClientRect();
      const at = `${event.clientX} ${event.clientY}`;
      if (at === pointed) return;
      pointed = at;
      const x = ((event.clientX - box.left) / box.width) * 2 - 1;
      const y = 1 - ((event.clientY - box.top) / box.height) * 2;
      ray.setFromCamera(new THREE.Vector2(x, y), camera);
      const hit = ray.intersectObjects(scene.children, true).find(({ object }) => object instanceof THREE.Mesh);
      if (!hit) return;
      const ahead = camera.getWorldDirection(new THREE.Vector3());
      const depth = hit.point.clone().sub(camera.position).dot(ahead);
      if (depth > camera.near) orbit.target.copy(camera.position).addScaledVector(ahead, depth);
    };
    gl.domElement.addEventListener("wheel", aim, { capture: true, passive: true });
    // While a hand turns it nothing is pointed at and shadows stay as they are: each would cost as much as the picture.
    // A press that turns nothing is a click, and is noticed.
    let held = false;
    const hold = (on: boolean) => {
      gl.shadowMap.autoUpdate = !on;
      setEvents({ enabled: !on });
    };
    const moved = () => {
      if (held) hold(true);
      changed?.(new THREE.Vector3().subVectors(camera.position, orbit.target));
      invalidate();
    };
    const begun = () => {
      held = true;
    };
    const ended = () => {
      held = false;
      hold(false);
      invalidate();
    };
    orbit.addEventListener("change", moved);
    orbit.addEventListener("start", begun);
    orbit.addEventListener("end", ended);
    return () => {
      orbit.removeEventListener("change", moved);
      orbit.removeEventListener("start", begun);
      orbit.removeEventListener("end", ended);
      ended();
      gl.domElement.removeEventListener("wheel", aim, { capture: true });
      orbit.dispose();
    };
  }, [camera, gl, invalidate, changed, below, scene, set, setEvents]);
  useOrbitKeys(controls);
  return controls;
}

function useOrbitKeys(controls: RefObject<OrbitControls | null>) {
  const { camera, gl, invalidate } = useThree();
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
  }, [camera, gl, invalidate, controls]);
}

/** Stand the eye so near that every point stays in the picture, and the picture in the middle of the sheet. */
export function standBack(
  camera: THREE.PerspectiveCamera,
  orbit: OrbitControls,
  points: THREE.Vector3[],
  from: THREE.Vector3,
  aspect: number,
  nearest: number,
): number {
  from.normalize();
  const middle = new THREE.Box3().setFromPoints(points).getCenter(new THREE.Vector3());
  const half = Math.tan((camera.fov * Math.PI) / 360);
  const right = new THREE.Vector3().crossVectors(new THREE.Vector3(0, 0, 1), from).normalize();
  const up = new THREE.Vector3().crossVectors(from, right);
  let distance = nearest;
  for (let round = 0; round < 4; round++) {
    const seen = points.map((point) => point.clone().sub(middle));
    distance = Math.max(
      nearest,
      ...seen.map(
        (away) => away.dot(from) + Math.max(Math.abs(away.dot(right)) / aspect, Math.abs(away.dot(up))) * (1.14 / half),
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
  return distance;
}

/** Stand the eye where a new view begins, so that all of a box is in the picture. */
export function lookAtAll(camera: THREE.PerspectiveCamera, orbit: OrbitControls, box: THREE.Box3, aspect: number) {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map(
    (i) =>
      new THREE.Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z),
  );
  const across = Math.max(1e-3, box.getSize(new THREE.Vector3()).length());
  const distance = standBack(camera, orbit, corners, FIRST.clone(), aspect, across / 20);
  camera.near = across / 500;
  camera.far = distance + across * 20;
  camera.updateProjectionMatrix();
  orbit.update();
}
