/** The drawing in 3D while choosing: the mesh, the lines found on it, and its faces and loops to point at. */

import { Canvas, type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import type { DrawingRead, LinesFound } from "../api/client";
import { useDisposedObject } from "../sheet/disposing";
import { lookAtAll, useOrbit } from "../sheet/solid/orbit";
import { colour } from "../ui/colour";
import { endsOf, type Faces, FacesMesh, faceOf, loopNear, partOf, useFaces } from "./faces";
import type { ReadOptions } from "./reading";
import type { Heights } from "./Slice";

type Found = LinesFound["lines"][number];

/** What is pointed at: a face, and the loop of it near the pointer if one is. */
interface At {
  face: number;
  loop: number | null;
}

interface PreviewSolidProps {
  drawing: DrawingRead;
  options: ReadOptions;
  lines: Found[];
  left: ReadonlySet<string>;
  keyOf: (line: Found) => string;
  pointed: number | null;
  point: (line: number | null) => void;
  toggle: (line: Found, on: boolean) => void;
  /** The heights between which the model is seen; all of it where null. */
  slice: Heights | null;
  /** The loops taken by pointing; null where edges are taken by kind. */
  loops: readonly number[] | null;
  turn: (loops: number[]) => void;
  /** The face pointed at in the list. */
  face: number | null;
  reading: boolean;
}

export function PreviewSolid(props: PreviewSolidProps) {
  const { drawing, options, lines, loops } = props;
  const { faces, failed } = useFaces(
    drawing.content,
    options,
    Boolean(drawing.faces?.can_be_shown) && !props.reading && !drawing.question,
  );
  const [at, setAt] = useState<At | null>(null);
  const shown = at ?? (props.face === null ? null : { face: props.face, loop: null });
  return (
    <div className="relative min-w-0">
      <Canvas
        flat
        frameloop="demand"
        dpr={[1, 2]}
        camera={{ fov: 32, up: [0, 0, 1] }}
        raycaster={{ params: { ...new THREE.Raycaster().params, Line2: { threshold: 9 } } as never }}
        className="bg-[linear-gradient(var(--color-far),var(--color-near))]"
      >
        <hemisphereLight args={[colour("sky"), colour("ground"), 1.9]} position={[0, 0, 1]} />
        <directionalLight color={colour("sun")} intensity={1.7} position={[-0.7, -0.45, 0.9]} />
        <Sliced slice={props.slice} />
        {faces && <Mesh {...props} faces={faces} at={shown} setAt={setAt} />}
        <Lines {...props} />
        <Eye lines={lines} faces={faces} />
      </Canvas>
      <p className="pointer-events-none absolute top-3 left-4 max-w-[60%] text-pencil text-sm">
        {loops === null
          ? "Click a line to leave it out or take it in. Drag to turn the view."
          : "Click a face to take the edges around it, or one of its edges to take that loop alone."}
      </p>
      {shown && faces && loops !== null && (
        <p
          role="status"
          className="pointer-events-none absolute bottom-3 left-4 rounded-[3px] bg-paper/90 px-2 py-1 text-sm"
        >
          {words(faces, shown)}
        </p>
      )}
      {(failed || drawing.faces?.can_be_shown === false) && (
        <p className="absolute right-4 bottom-3 left-4 border-wax border-l-[3px] bg-wax-wash px-3 py-1.5 text-sm">
          <b className="text-wax-deep">?</b>{" "}
          {failed?.detail ?? "The mesh has too many faces to be shown; its lines are. Choose its edges by kind."}
        </p>
      )}
    </div>
  );
}

/** Cut everything off that lies above or below a slice. */
function Sliced({ slice }: { slice: Heights | null }) {
  const { gl, invalidate } = useThree();
  useEffect(() => {
    gl.clippingPlanes = slice
      ? [
          new THREE.Plane(new THREE.Vector3(0, 0, 1), -slice[0] + 0.5),
          new THREE.Plane(new THREE.Vector3(0, 0, -1), slice[1] + 0.5),
        ]
      : [];
    invalidate();
  }, [gl, slice, invalidate]);
  return null;
}

function words(faces: Faces, { face, loop }: At): string {
  const around = faces.around[face] ?? [];
  const edges = (wanted: number[]) =>
    wanted.reduce((sum, one) => sum + (faces.begins[one + 1] ?? 0) - (faces.begins[one] ?? 0), 0);
  const name = `Face ${face + 1}`;
  if (!around.length) return `${name}: it has no edges, being round all over`;
  const message = (count: number) => `${count} ${count === 1 ? "edge" : "edges"}`;
  if (loop !== null && around.length > 1) return `${name}: one loop of ${message(edges([loop]))}`;
  return `${name}: ${message(edges(around))}${around.length > 1 ? ` in ${around.length} loops` : ""}`;
}

/** Segments of some pixels' width, in front of the faces they lie on. */
function useSegments(ends: number[], color: string, width: number) {
  const { invalidate } = useThree();
  const object = useMemo(() => {
    const geometry = new LineSegmentsGeometry();
    if (ends.length) geometry.setPositions(ends);
    const material = new LineMaterial({ color, linewidth: width, worldUnits: false });
    return new LineSegments2(geometry, material);
  }, [ends, color, width]);
  useEffect(() => {
    invalidate();
    return () => {
      object.geometry.dispose();
      object.material.dispose();
    };
  }, [object, invalidate]);
  return object;
}

function Segments({
  ends,
  color,
  width,
  order = 1,
  ...events
}: {
  ends: number[];
  color: string;
  width: number;
  order?: number;
  onClick?: (event: ThreeEvent<MouseEvent>) => void;
  onPointerOver?: (event: ThreeEvent<PointerEvent>) => void;
  onPointerOut?: () => void;
}) {
  const object = useSegments(ends, color, width);
  if (!ends.length) return null;
  return <primitive object={object} renderOrder={order} {...events} {...(events.onClick ? {} : { raycast: none })} />;
}

const none = () => null;

function Mesh({
  faces,
  at,
  setAt,
  loops,
  turn,
}: PreviewSolidProps & { faces: Faces; at: At | null; setAt: (at: At | null) => void }) {
  const { camera, size, invalidate } = useThree();
  const picking = loops !== null;
  const mesh = useMemo(() => {
    const material = new THREE.MeshStandardMaterial({
      color: colour("wall"),
      roughness: 0.95,
      flatShading: true,
      side: THREE.DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: 2,
      polygonOffsetUnits: 2,
    });
    return new FacesMesh(faces.geometry, material);
  }, [faces]);
  useDisposedObject(mesh);
  const edges = useMemo(() => {
    const material = new THREE.LineBasicMaterial({ color: colour("arris"), transparent: true, opacity: 0.55 });
    const object = new THREE.LineSegments(new THREE.BufferGeometry(), material);
    object.geometry.setAttribute("position", new THREE.BufferAttribute(faces.ends, 3));
    object.raycast = none;
    return object;
  }, [faces]);
  useDisposedObject(edges);
  const taken = useMemo(() => {
    const all = new Set(loops ?? []);
    return faces.around.flatMap((around, face) => (around.some((loop) => all.has(loop)) ? [face] : []));
  }, [faces, loops]);
  const part = useMemo(() => partOf(faces, taken), [faces, taken]);
  const over = useMemo(() => (at && picking ? partOf(faces, [at.face]) : null), [faces, at, picking]);
  const bold = useMemo(
    () => (at && picking ? endsOf(faces, at.loop === null ? (faces.around[at.face] ?? []) : [at.loop]) : []),
    [faces, at, picking],
  );
  useEffect(() => invalidate(), [part, over, invalidate]);
  const find = (event: ThreeEvent<PointerEvent> | ThreeEvent<MouseEvent>): At => {
    const face = faceOf(faces, event.faceIndex ?? 0);
    const perspective = camera as THREE.PerspectiveCamera;
    const pixel = (2 * event.distance * Math.tan((perspective.fov * Math.PI) / 360)) / size.height;
    return { face, loop: loopNear(faces, face, event.point, 9 * pixel) };
  };
  return (
    <>
      <primitive
        object={mesh}
        onPointerMove={
          picking
            ? (event: ThreeEvent<PointerEvent>) => {
                event.stopPropagation();
                const found = find(event);
                if (found.face !== at?.face || found.loop !== at.loop) setAt(found);
              }
            : undefined
        }
        onPointerOut={() => setAt(null)}
        onClick={(event: ThreeEvent<MouseEvent>) => {
          if (!picking || event.delta > 4) return;
          event.stopPropagation();
          const { face, loop } = find(event);
          turn(loop === null ? (faces.around[face] ?? []) : [loop]);
        }}
      />
      {picking && <primitive object={edges} />}
      {part && <Tint geometry={part} color={colour("chalk-pale")} />}
      {over && <Tint geometry={over} color={colour("wax-wash")} />}
      <Segments ends={bold} color={colour("wax")} width={4} order={3} />
    </>
  );
}

function Tint({ geometry, color }: { geometry: THREE.BufferGeometry; color: string }) {
  return (
    <mesh geometry={geometry} raycast={none} renderOrder={0}>
      <meshStandardMaterial
        color={color}
        roughness={0.95}
        flatShading
        side={THREE.DoubleSide}
        polygonOffset
        polygonOffsetFactor={1}
        polygonOffsetUnits={1}
      />
    </mesh>
  );
}

function endsOfLine(line: Found): number[] {
  const all = line.points.map(([x, y], i) => [x, y, line.rising?.[i] ?? line.heights[0] ?? 0]);
  if (line.closed && all[0]) all.push(all[0]);
  return all.slice(1).flatMap((to, i) => [...(all[i] as number[]), ...to]);
}

function Lines({ lines, left, keyOf, pointed, point, toggle, loops }: PreviewSolidProps) {
  // A few are drawn one by one, so that each can be clicked; thousands as two.
  const many = lines.length > 1500;
  const all = useMemo(() => lines.map((line) => ({ line, ends: endsOfLine(line) })), [lines]);
  const on = useMemo(
    () => (many ? all.filter(({ line }) => !left.has(keyOf(line))).flatMap(({ ends }) => ends) : []),
    [many, all, left, keyOf],
  );
  const off = useMemo(
    () => (many ? all.filter(({ line }) => left.has(keyOf(line))).flatMap(({ ends }) => ends) : []),
    [many, all, left, keyOf],
  );
  const hidden = useMemo(() => {
    const object = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ color: colour("chalk"), transparent: true, opacity: 0.28, depthTest: false }),
    );
    const positions = new Float32Array(all.flatMap(({ ends }) => ends));
    object.geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
    object.raycast = none;
    object.renderOrder = 2;
    return object;
  }, [all]);
  useDisposedObject(hidden);
  if (many)
    return (
      <>
        <Segments ends={off} color={colour("faint")} width={1.2} />
        <Segments ends={on} color={colour("chalk")} width={1.8} order={2} />
      </>
    );
  return (
    <>
      {/* What a face hides is hinted at. */}
      <primitive object={hidden} />
      {all.map(({ line, ends }) => {
        const taken = !left.has(keyOf(line));
        const strong = pointed === line.number;
        return (
          <Segments
            key={line.number}
            ends={ends}
            color={
              taken ? (strong ? colour("chalk-deep") : colour("chalk")) : strong ? colour("pencil") : colour("faint")
            }
            width={strong ? 4.5 : taken ? 2.6 : 1.6}
            order={2}
            {...(loops === null
              ? {
                  onClick: (event: ThreeEvent<MouseEvent>) => {
                    if (event.delta > 4) return;
                    event.stopPropagation();
                    toggle(line, !taken);
                  },
                  onPointerOver: (event: ThreeEvent<PointerEvent>) => {
                    event.stopPropagation();
                    point(line.number);
                  },
                  onPointerOut: () => point(null),
                }
              : {})}
          />
        );
      })}
    </>
  );
}

/** The eye, which stands back as far as all can be seen when something is first there. */
function Eye({ lines, faces }: { lines: Found[]; faces: Faces | undefined }) {
  const { camera, size, invalidate } = useThree();
  const controls = useOrbit(undefined, true);
  const seen = useRef<Faces | "lines" | null>(null);
  useEffect(() => {
    const orbit = controls.current;
    const now = faces ?? (lines.length ? "lines" : null);
    if (!orbit || !size.width || !now || seen.current === now || (seen.current && now === "lines")) return;
    seen.current = now;
    const box = new THREE.Box3();
    if (faces) {
      faces.geometry.computeBoundingBox();
      if (faces.geometry.boundingBox) box.copy(faces.geometry.boundingBox);
    } else
      for (const line of lines)
        line.points.forEach(([x = 0, y = 0], i) => {
          box.expandByPoint(new THREE.Vector3(x, y, line.rising?.[i] ?? line.heights[0] ?? 0));
        });
    lookAtAll(camera as THREE.PerspectiveCamera, orbit, box, size.width / size.height);
    invalidate();
  }, [faces, lines, size, camera, invalidate, controls]);
  return null;
}
