/** A pane in a line, as thick as it is: glass and mesh are seen through. */
import { useMemo } from "react";
import * as THREE from "three";
import { mergeGeometries } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import type { LineFigures, Point3 } from "../../api/client";
import { colour } from "../../ui/colour";
import { useDisposed } from "../disposing";
import { toneOf } from "../tones";

export type PaneShape = NonNullable<LineFigures["pane"]>;

/** How each is drawn: its colour, and how much of what is behind it is hidden. */
function lookOf(of: PaneShape["of"]): { color: string; opacity: number } {
  if (of === "boards") return { color: toneOf("softwood").face, opacity: 1 };
  return of === "glass" ? { color: colour("glass"), opacity: 0.35 } : { color: toneOf("steel").edge, opacity: 0.45 };
}

/** The solid of panes, from a place near them. */
export function paneGeometry(panes: readonly PaneShape[], [x, y, z]: Point3): THREE.BufferGeometry {
  const solids = panes.flatMap(({ parts, thickness, axes, origin }) => {
    const [across, up, out] = axes.map((axis) => new THREE.Vector3(...(axis as Point3)));
    if (!across || !up || !out) return [];
    const stands = new THREE.Matrix4()
      .makeBasis(across, up, out)
      .setPosition(new THREE.Vector3(...(origin as Point3)).sub(new THREE.Vector3(x, y, z)));
    return parts.map((part) => {
      const shape = new THREE.Shape(part.map(([right, above]) => new THREE.Vector2(right, above)));
      const solid = new THREE.ExtrudeGeometry(shape, { depth: thickness, bevelEnabled: false });
      return solid.translate(0, 0, -thickness / 2).applyMatrix4(stands);
    });
  });
  const merged = mergeGeometries(solids);
  for (const solid of solids) solid.dispose();
  return merged;
}

export function PaneMaterial({ of }: { of: PaneShape["of"] }) {
  const { color, opacity } = lookOf(of);
  return <meshStandardMaterial color={color} roughness={0.4} transparent={opacity < 1} {...{ opacity }} />;
}

export function SolidPane({ pane }: { pane: PaneShape }) {
  const origin = pane.origin as Point3;
  const geometry = useMemo(() => paneGeometry([pane], pane.origin as Point3), [pane]);
  useDisposed(geometry);
  return (
    <mesh {...{ geometry }} position={origin} castShadow={pane.of === "boards"} receiveShadow raycast={() => null}>
      <PaneMaterial of={pane.of} />
    </mesh>
  );
}
