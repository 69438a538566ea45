/** Marks in the 3D sheet: lines, the place pointed at, faults. */

import { type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { type ReactNode, useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import type { Point3 } from "../../api/client";
import { colour } from "../../ui/colour";
import { useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { usePart, useWindow } from "../../window/store";
import { lineById, pathOf, pointAt, runById } from "../../window/things";
import { useDisposedObject } from "../disposing";

export function LineMark({ points, id }: { points: Point3[]; id: string }) {
  const on = useWindow((state) => isIn(state.selected, id));
  const { select } = usePart("select");
  const object = useMemo(() => {
    const origin = points[0] as Point3;
    const path = points.map((p) => new THREE.Vector3(p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]));
    const line = new THREE.Line(
      new THREE.BufferGeometry().setFromPoints(path),
      new THREE.LineBasicMaterial({ transparent: true }),
    );
    line.position.set(...origin);
    return line;
  }, [points]);
  useDisposedObject(object);
  object.material.color.set(on ? colour("chalk") : colour("chalk-quiet"));
  object.material.opacity = on ? 1 : 0.55;
  return (
    <primitive
      object={object}
      onClick={(event: ThreeEvent<MouseEvent>) => {
        if (event.delta > 4) return;
        event.stopPropagation();
        select([id]);
      }}
    />
  );
}

/** Holds marks at a place that are drawn in pixels, as large from near as from far. */
function InPixels({ at, children }: { at: Point3; children: ReactNode }) {
  const group = useRef<THREE.Group>(null);
  useFrame(({ camera, size }) => {
    if (!group.current || !(camera instanceof THREE.PerspectiveCamera)) return;
    const tall = 2 * camera.position.distanceTo(group.current.position) * Math.tan(((camera.fov / 2) * Math.PI) / 180);
    group.current.scale.setScalar(tall / size.height);
  });
  return (
    <group ref={group} position={at}>
      {children}
    </group>
  );
}

export function PointerMark() {
  const shown = useShown();
  const pointed = useWindow((state) => state.pointed);
  const selected = useWindow((state) => state.selected);
  const { invalidate } = useThree();
  useEffect(() => invalidate(), [pointed, invalidate]);
  const line = lineById(shown, pointed?.line);
  if (!pointed || !line) return null;
  const [x, y, z] = pointAt(pathOf(shown, line), pointed.chainage);
  const lift = runById(shown, selected[0])?.placing?.lift ?? 0;
  return (
    <InPixels at={[x, y, z + lift]}>
      <mesh raycast={() => null} renderOrder={5}>
        <sphereGeometry args={[5, 20, 14]} />
        <meshBasicMaterial color={colour("chalk-deep")} depthTest={false} transparent />
      </mesh>
    </InPixels>
  );
}

export function FaultMarks() {
  const shown = useShown();
  const { select } = usePart("select");
  return (
    <>
      {shown.checks.map((check, index) => {
        const lift = runById(shown, check.thing)?.placing?.lift ?? 0;
        const [x, y, z] = check.point as Point3;
        return (
          <InPixels key={index} at={[x, y, z + lift]}>
            <mesh
              position={[0, 0, 9]}
              rotation={[-Math.PI / 2, 0, 0]}
              renderOrder={4}
              onClick={() => select([check.thing], check.piece)}
            >
              <coneGeometry args={[5, 16, 4]} />
              <meshBasicMaterial
                color={check.severity === "fault" ? colour("red") : colour("wax")}
                depthTest={false}
                transparent
              />
            </mesh>
          </InPixels>
        );
      })}
    </>
  );
}
