/** The shapes of items as they are drawn: as fine as they can be seen from where the eye stands. */
import { useFrame } from "@react-three/fiber";
import { type RefObject, useMemo, useState } from "react";
import * as THREE from "three";
import type { ItemFigures } from "../../api/client";
import { useDisposed } from "../disposing";
import { useBrought } from "./brought";
import { itemShape, widthOf } from "./itemShape";

export type Fineness = "far" | "middle" | "near";

/** Items that are seen this wide, dots, or wider are drawn so. */
const SEEN = { near: 48, middle: 10 };

/** How finely an item is drawn that is seen `dots` wide; where there are thousands, coarser. */
function finenessOf(dots: number, count: number): Fineness {
  if (count > 5000 || dots < SEEN.middle) return "far";
  return count > 400 || dots < SEEN.near ? "middle" : "near";
}

const sphere = new THREE.Sphere();

/** How finely items are to be drawn for the eye where it stands: as the nearest of them may be seen. */
function useFineness(mesh: RefObject<THREE.InstancedMesh | null>, item: ItemFigures, count: number): Fineness {
  const [fineness, setFineness] = useState<Fineness>("far");
  const wide = useMemo(() => widthOf(item), [item]);
  useFrame(({ camera, size }) => {
    const ball = mesh.current?.boundingSphere;
    if (!mesh.current || !ball || !(camera instanceof THREE.PerspectiveCamera)) return;
    sphere.copy(ball).applyMatrix4(mesh.current.matrixWorld);
    const away = Math.max(camera.near, sphere.distanceToPoint(camera.position));
    const dotsEach = size.height / (2 * away * Math.tan((camera.fov * Math.PI) / 360));
    const now = finenessOf(dotsEach * wide, count);
    if (now !== fineness) setFineness(now);
  });
  return fineness;
}

/** The shape of the items of an instanced mesh, `count` of them, or of their hangers alone. */
export function useItemShape(
  mesh: RefObject<THREE.InstancedMesh | null>,
  item: ItemFigures,
  count: number,
  hanger = false,
): THREE.BufferGeometry {
  const fineness = useFineness(mesh, item, count);
  const shape = useMemo(() => itemShape(item, count, fineness, hanger), [item, count, fineness, hanger]);
  useDisposed(shape);
  return useBrought(item.mesh) ?? shape;
}
