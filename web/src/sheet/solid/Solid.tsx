/** The sheet in 3D: runs as the service meshes them, items as instances, walls behind, soft daylight. */

import { Canvas } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { colour } from "../../ui/colour";
import { useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { lineById, pathOf, rowById } from "../../window/things";
import { fitPoints } from "../plan/frame";
import { Camera } from "./Camera";
import { FaultMarks, LineMark, PointerMark } from "./SolidMarks";
import { SolidPlaces } from "./SolidPlaces";
import { Items, RunMesh, Wall } from "./SolidThings";

export function Solid() {
  const [direction, setDirection] = useState("");
  const shown = useShown();
  const { select } = usePart("select");
  if (!shown.job.lines?.length) {
    return (
      <p className="grid size-full place-items-center text-pencil">
        There is nothing to see yet: draw a line or import a drawing first.
      </p>
    );
  }
  return (
    <>
      <Canvas
        shadows="percentage"
        flat
        frameloop="demand"
        dpr={[1, 2]}
        gl={{ antialias: true, logarithmicDepthBuffer: false }}
        camera={{ fov: 32, up: [0, 0, 1], near: 50, far: 400000 }}
        onPointerMissed={(event) => event.type === "click" && select([])}
        aria-label="3D"
        className="bg-[linear-gradient(var(--color-far),var(--color-middle)_55%,var(--color-near))]"
      >
        <Scene tell={setDirection} />
      </Canvas>
      <div className="pointer-events-none absolute bottom-3 left-3.5 rounded-[3px] bg-paper/85 px-2 py-1 text-pencil text-sm">
        {direction}
      </div>
      <div className="pointer-events-none absolute right-3 bottom-2.5 flex gap-3 rounded-[3px] bg-paper/85 px-2 py-1 text-pencil text-sm">
        <span>drag to orbit, with the right button to move, wheel for nearer</span>
        <span>
          <kbd>Home</kbd> fit
        </span>
      </div>
    </>
  );
}

function Scene({ tell }: { tell: (words: string) => void }) {
  const shown = useShown();
  const points = fitPoints(shown, []);
  const box = new THREE.Box3().setFromPoints(points.map((point) => new THREE.Vector3(...point)));
  const heights = shown.lines.map((line) => lineById(shown, line.id)?.wall?.height ?? 0);
  box.max.z += Math.max(1000, ...heights);
  const size = box.getSize(new THREE.Vector3()).length();
  const middle = box.getCenter(new THREE.Vector3());
  return (
    <>
      <Light middle={middle} size={size} />
      <mesh position={[middle.x, middle.y, box.min.z - 2]} receiveShadow raycast={() => null}>
        <planeGeometry args={[size * 30, size * 30]} />
        <shadowMaterial transparent opacity={0.16} />
      </mesh>
      {shown.lines.map((line) => {
        const wall = lineById(shown, line.id)?.wall;
        return wall && <Wall key={line.id} figures={line} side={wall.side} />;
      })}
      {shown.runs.map((run) => (
        <RunMesh key={run.id} figures={run} />
      ))}
      {shown.rows.map((row) => {
        const plain = rowById(shown, row.id);
        return plain && <Items key={row.id} figures={row} row={plain} />;
      })}
      {shown.job.lines?.map((line) => (
        <LineMark key={line.id} points={pathOf(shown, line).points} id={line.id} />
      ))}
      <SolidPlaces />
      <PointerMark />
      <FaultMarks />
      <Camera size={size} tell={tell} />
    </>
  );
}

function Light({ middle, size }: { middle: THREE.Vector3; size: number }) {
  const sun = useRef<THREE.DirectionalLight>(null);
  const reach = size * 0.62;
  const target = useMemo(() => new THREE.Object3D(), []);
  target.position.copy(middle);
  useEffect(() => {
    if (!sun.current) return;
    const camera = sun.current.shadow.camera;
    Object.assign(camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 10, far: size * 4 });
    camera.updateProjectionMatrix();
  }, [reach, size]);
  return (
    <>
      <hemisphereLight args={[colour("sky"), colour("ground"), 2.1]} position={[0, 0, 1]} />
      <primitive object={target} />
      <directionalLight
        ref={sun}
        castShadow
        target={target}
        color={colour("sun")}
        intensity={2.0}
        position={[middle.x - size * 0.75, middle.y - size * 0.45, middle.z + size * 0.95]}
        shadow-mapSize={[2048, 2048]}
        shadow-normalBias={8}
        shadow-bias={-0.0004}
        shadow-radius={5}
      />
    </>
  );
}
