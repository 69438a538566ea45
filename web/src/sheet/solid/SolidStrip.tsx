/** A path or a bed along a line, flat on the ground at the line's height. */
import { useMemo } from "react";
import * as THREE from "three";
import type { LineFigures } from "../../api/client";
import { colour } from "../../ui/colour";
import { useDisposed } from "../disposing";

/** How far below its line a strip lies, mm, so that it does not flicker with what stands on it. */
const BELOW = 1;

export function SolidStrip({ figures }: { figures: LineFigures }) {
  const { strip, origin } = figures;
  const geometry = useMemo(() => {
    if (!strip?.level) return null;
    const points = (ring: readonly (readonly number[])[]) =>
      ring.map(([x = 0, y = 0]) => new THREE.Vector2(x - (origin[0] ?? 0), y - (origin[1] ?? 0)));
    const shapes = strip.grounds.map(([outer = [], ...holes]) => {
      const shape = new THREE.Shape(points(outer));
      shape.holes = holes.map((hole) => new THREE.Path(points(hole)));
      return shape;
    });
    return new THREE.ShapeGeometry(shapes);
  }, [strip, origin]);
  useDisposed(geometry);
  if (!geometry) return null;
  return (
    <mesh
      geometry={geometry}
      position={[origin[0] ?? 0, origin[1] ?? 0, (origin[2] ?? 0) - BELOW]}
      receiveShadow
      raycast={() => null}
    >
      <meshStandardMaterial color={colour("paving")} roughness={0.95} side={THREE.DoubleSide} />
    </mesh>
  );
}
