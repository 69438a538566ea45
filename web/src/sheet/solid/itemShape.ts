/** What an item of a row looks like in 3D. */
import * as THREE from "three";
import type { Row } from "../../api/client";

/** How many sides a round item is drawn with: the more there are of them, the smaller each is seen. */
function sidesOf(count: number): number {
  if (count > 50_000) return 5;
  return count > 5000 ? 8 : 28;
}

/** The shape of an item with the middle of its foot at nought; `count` is how many there are of it. */
export function itemShape(item: Row["item"], count: number): THREE.BufferGeometry {
  const shape =
    item.kind === "box"
      ? new THREE.BoxGeometry(item.along, item.across, item.height)
      : new THREE.CylinderGeometry(item.diameter / 2, item.diameter / 2, item.height, sidesOf(count)).rotateX(
          Math.PI / 2,
        );
  return shape.translate(0, 0, item.height / 2);
}
