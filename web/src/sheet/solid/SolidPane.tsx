/** What fills a bay of a frame, as thick as it is: glass and mesh are seen through. */
import { useMemo } from "react";
import * as THREE from "three";
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

/** The solid of panes: each part goes from half its thickness before the frame's middle to half behind. */
export function paneGeometry(panes: readonly PaneShape[]): THREE.BufferGeometry {
  const places: number[] = [];
  for (const { parts, thickness } of panes) {
    for (const part of parts) {
      const around = part as Point3[];
      const at = (index: number, side: number): Point3 => {
        const [x, y, z] = around[(index + around.length) % around.length] as Point3;
        return [x, y + (side * thickness) / 2, z];
      };
      for (let i = 0; i < around.length; i++) {
        places.push(...at(i, -1), ...at(i + 1, 1), ...at(i + 1, -1), ...at(i, -1), ...at(i, 1), ...at(i + 1, 1));
        if (i === 0 || i > around.length - 2) continue;
        // Parts have no hollow corner. Their corners go round against the clock, seen from the south.
        places.push(...at(0, -1), ...at(i, -1), ...at(i + 1, -1), ...at(0, 1), ...at(i + 1, 1), ...at(i, 1));
      }
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(places, 3));
  geometry.computeVertexNormals();
  return geometry;
}

export function PaneMaterial({ of }: { of: PaneShape["of"] }) {
  const { color, opacity } = lookOf(of);
  return <meshStandardMaterial color={color} roughness={0.4} transparent={opacity < 1} {...{ opacity }} />;
}

export function SolidPane({ pane, origin }: { pane: PaneShape; origin: Point3 }) {
  const geometry = useMemo(() => {
    const [x, y, z] = origin;
    return paneGeometry([pane]).translate(-x, -y, -z);
  }, [pane, origin]);
  useDisposed(geometry);
  return (
    <mesh {...{ geometry }} position={origin} castShadow={pane.of === "boards"} receiveShadow raycast={() => null}>
      <PaneMaterial of={pane.of} />
    </mesh>
  );
}
