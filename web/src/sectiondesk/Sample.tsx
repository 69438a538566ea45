/** A sample piece of the section with an internal and an external mitred corner, turning; it follows every change of the outline. */
import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { problemOf, type Section } from "../api/client";
import { useDisposed } from "../sheet/disposing";
import { toneOf } from "../sheet/tones";
import { colour } from "../ui/colour";
import { useLooked } from "./facts";

const loader = new GLTFLoader();
/** Pictures a second while it turns, and radians a second that it does. */
const [PICTURES, TURN] = [15, 0.35];

export default function Sample({ section }: { section: Section }) {
  const { data, error } = useLooked(section);
  const [geometry, setGeometry] = useState<THREE.BufferGeometry | null>(null);
  const sample = data?.sample;
  useEffect(() => {
    if (!sample) return;
    let wanted = true;
    void loader.parseAsync(sample, "").then(({ scene }) => {
      scene.traverse((object) => {
        if (wanted && object instanceof THREE.Mesh) setGeometry(object.geometry);
      });
    });
    return () => {
      wanted = false;
    };
  }, [sample]);
  return (
    <figure
      aria-label="Sample piece"
      className="absolute bottom-11 left-3.5 h-[168px] w-[200px] overflow-hidden rounded-[3px] border border-rule bg-[linear-gradient(var(--color-far),var(--color-middle)_55%,var(--color-near))]"
    >
      <Canvas flat frameloop="demand" dpr={[1, 2]} camera={{ fov: 26, up: [0, 0, 1], near: 1, far: 400000 }}>
        {geometry && <Piece geometry={geometry} tone={toneOf(section.material)} />}
      </Canvas>
      <figcaption className="pointer-events-none absolute bottom-1 left-2 text-pencil text-xs">
        {error ? `No sample: ${problemOf(error).detail}` : "sample, both corners · drag to turn"}
      </figcaption>
    </figure>
  );
}

function Piece({ geometry, tone }: { geometry: THREE.BufferGeometry; tone: { face: string; edge: string } }) {
  const { camera, gl, invalidate } = useThree();
  const turn = useRef({ angle: -0.9, rise: 0.5, by: true });
  const [still] = useState(() => matchMedia("(prefers-reduced-motion: reduce)").matches);
  const edges = useMemo(() => new THREE.EdgesGeometry(geometry, 24), [geometry]);
  useDisposed(edges);
  useDisposed(geometry);
  const { middle, size } = useMemo(() => {
    geometry.computeBoundingBox();
    const box = geometry.boundingBox as THREE.Box3;
    return { middle: box.getCenter(new THREE.Vector3()), size: box.getSize(new THREE.Vector3()).length() };
  }, [geometry]);
  useEffect(() => {
    invalidate();
    if (still) return;
    const timer = setInterval(() => {
      if (!turn.current.by || document.visibilityState === "hidden") return;
      turn.current.angle += TURN / PICTURES;
      invalidate();
    }, 1000 / PICTURES);
    return () => clearInterval(timer);
  }, [invalidate, still]);
  useEffect(() => {
    const element = gl.domElement;
    let from: [number, number] | null = null;
    const down = (event: PointerEvent) => {
      from = [event.clientX, event.clientY];
      turn.current.by = false;
      element.setPointerCapture(event.pointerId);
    };
    const move = (event: PointerEvent) => {
      if (!from) return;
      turn.current.angle -= (event.clientX - from[0]) * 0.012;
      turn.current.rise = Math.min(1.45, Math.max(-1.2, turn.current.rise + (event.clientY - from[1]) * 0.01));
      from = [event.clientX, event.clientY];
      invalidate();
    };
    const up = () => {
      from = null;
    };
    element.addEventListener("pointerdown", down);
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", up);
    return () => {
      element.removeEventListener("pointerdown", down);
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", up);
    };
  }, [gl, invalidate]);
  useFrame(() => {
    const { angle, rise } = turn.current;
    const far = size * 1.8;
    camera.position.set(
      middle.x + far * Math.cos(rise) * Math.cos(angle),
      middle.y + far * Math.cos(rise) * Math.sin(angle),
      middle.z + far * Math.sin(rise),
    );
    camera.lookAt(middle);
  });
  return (
    <>
      <hemisphereLight args={[colour("sky"), colour("ground"), 2.1]} position={[0, 0, 1]} />
      <directionalLight color={colour("sun")} intensity={2} position={[-size, -size * 0.6, size * 1.2]} />
      <mesh geometry={geometry}>
        <meshStandardMaterial color={tone.face} roughness={0.75} metalness={0} />
      </mesh>
      <lineSegments geometry={edges}>
        <lineBasicMaterial color={tone.edge} transparent opacity={0.55} />
      </lineSegments>
    </>
  );
}
