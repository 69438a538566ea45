/** The sheet in 3D: runs as the service meshes them, items as instances, walls behind, soft daylight. */

import { Canvas, useFrame } from "@react-three/fiber";
import { useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { colour } from "../../ui/colour";
import { useShown } from "../../window/job";
import { usePart } from "../../window/store";
import { lineById, pathOf, rowById } from "../../window/things";
import { Hints } from "../Hints";
import { fitPoints } from "../plan/frame";
import { Camera } from "./Camera";
import { FaultMarks, LineMark, PointerMark } from "./SolidMarks";
import { SolidPane } from "./SolidPane";
import { SolidPlaces } from "./SolidPlaces";
import { SolidStrip } from "./SolidStrip";
import { Items, RunMesh, Wall } from "./SolidThings";

/** Dots along a side of the picture in which shadows are cast. */
const SHADOWS = 2048;

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
      <Hints>
        <span>drag to orbit, right button to move, wheel for nearer</span>
        <span>
          <kbd>Home</kbd> fit
        </span>
      </Hints>
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
      {shown.lines.map((line) => line.strip && <SolidStrip key={line.id} figures={line} />)}
      {shown.lines.map((line) => line.pane && <SolidPane key={line.id} pane={line.pane} />)}
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
  const target = useMemo(() => new THREE.Object3D(), []);
  const lit = useRef("");
  // The shadows' picture is laid over what is looked at, so that it is fine near to a moulding; in steps, so that shadows stand still
  // while the eye moves.
  useFrame(({ camera, controls, gl }) => {
    if (!sun.current) return;
    const looked = (controls as { target?: THREE.Vector3 } | null)?.target ?? middle;
    const far = camera.position.distanceTo(looked);
    const reach = Math.min(size * 0.62, 2 ** Math.ceil(Math.log2(Math.max(600, 1.1 * far))));
    const whole = reach === size * 0.62;
    const step = reach / 4;
    const at = whole ? middle : looked.clone().divideScalar(step).round().multiplyScalar(step);
    const now = [reach, ...at.toArray()].join();
    if (now === lit.current) return;
    lit.current = now;
    target.position.copy(at);
    target.updateMatrixWorld();
    sun.current.position.set(at.x - size * 0.75, at.y - size * 0.45, at.z + size * 0.95);
    const { shadow } = sun.current;
    const range = size * 2.6;
    Object.assign(shadow.camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 10, far: range });
    shadow.camera.updateProjectionMatrix();
    // A face is lit as if it lay this far out: a few dots of the picture, or it shadows itself in stripes.
    const dot = (2 * reach) / SHADOWS;
    shadow.normalBias = 2.5 * dot;
    shadow.bias = -dot / range;
    gl.shadowMap.needsUpdate = true;
  });
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
        shadow-mapSize={[SHADOWS, SHADOWS]}
        shadow-radius={1.5}
      />
    </>
  );
}
