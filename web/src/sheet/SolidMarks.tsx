/** Marks in the 3D sheet: lines, the place pointed at, faults. */

import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Point3 } from "../api/client";
import { colour } from "../ui/colour";
import { useShown } from "../window/job";
import { isIn } from "../window/selection";
import { usePart, useWindow } from "../window/store";
import { lineById, pathOf, pointAt, runById } from "../window/things";
import { useDisposedObject } from "./disposing";

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

export function PointerMark({ size }: { size: number }) {
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
    <mesh position={[x, y, z + lift]} raycast={() => null} renderOrder={5}>
      <sphereGeometry args={[size / 260, 20, 14]} />
      <meshBasicMaterial color={colour("chalk-deep")} depthTest={false} transparent />
    </mesh>
  );
}

export function FaultMarks({ size }: { size: number }) {
  const shown = useShown();
  const { select } = usePart("select");
  return (
    <>
      {shown.checks.map((check, index) => {
        const lift = runById(shown, check.thing)?.placing?.lift ?? 0;
        const [x, y, z] = check.point as Point3;
        return (
          <mesh
            key={index}
            position={[x, y, z + lift + size / 90]}
            rotation={[-Math.PI / 2, 0, 0]}
            renderOrder={4}
            onClick={() => select([check.thing], check.piece)}
          >
            <coneGeometry args={[size / 220, size / 70, 4]} />
            <meshBasicMaterial
              color={check.severity === "fault" ? colour("red") : colour("wax")}
              depthTest={false}
              transparent
            />
          </mesh>
        );
      })}
    </>
  );
}
