/** The sheet in 3D: runs as the service meshes them, items as instances, walls behind, soft daylight. */
import { Canvas, type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { memo, useContext, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import type { LineFigures, Point3, Row, RowFigures, RunFigures } from "../api/client";
import { JobId, useShown } from "../window/job";
import { useWindow } from "../window/store";
import { lineById, linePoints, nearestOn, pointAt, rowById, runById, sectionById } from "../window/things";
import { fitPoints } from "./frame";
import { meshQuery, useOneRowPlaces } from "./places";
import { toneOf } from "./tones";

const CHALK = "#4d8ccb";
const CHALK_DEEP = "#174a80";

export function Solid() {
  const [direction, setDirection] = useState("");
  const shown = useShown();
  const { select } = useWindow();
  if (!shown.job.lines?.length) {
    return (
      <p className="grid size-full place-items-center text-pencil">
        There is nothing to see yet: draw a line or bring in a drawing first.
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
        className="bg-[linear-gradient(#f1eee6,#dcd6c8_55%,#d0cabc)]"
      >
        <Scene tell={setDirection} />
      </Canvas>
      <div className="pointer-events-none absolute bottom-3 left-3.5 rounded-[3px] bg-paper/85 px-2 py-1 text-pencil text-sm">
        {direction}
      </div>
      <div className="pointer-events-none absolute right-3 bottom-2.5 flex gap-3 rounded-[3px] bg-paper/85 px-2 py-1 text-pencil text-sm">
        <span>drag to orbit, with the right button to move, wheel for nearer</span>
        <span>
          <kbd>.</kbd> fit
        </span>
      </div>
    </>
  );
}

function Scene({ tell }: { tell: (words: string) => void }) {
  const shown = useShown();
  const points = (shown.job.lines ?? []).flatMap(linePoints);
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
        <LineMark key={line.id} points={linePoints(line)} closed={line.closed ?? false} id={line.id} />
      ))}
      <PointerMark size={size} />
      <FaultMarks size={size} />
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
      <hemisphereLight args={["#fffdf8", "#b9b09c", 2.1]} position={[0, 0, 1]} />
      <primitive object={target} />
      <directionalLight
        ref={sun}
        castShadow
        target={target}
        color="#fff2dc"
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

const loader = new GLTFLoader();

/** Return a run's geometry from its binary glTF, and where its pieces begin among the faces. */
function useMesh(key: string): { geometry: THREE.BufferGeometry; pieces: number[] } | null {
  const job = useContext(JobId);
  const { data } = useQuery(meshQuery(job, key));
  const [found, setFound] = useState<{ geometry: THREE.BufferGeometry; pieces: number[] } | null>(null);
  useEffect(() => {
    let wanted = true;
    if (data) {
      void loader.parseAsync(data, "").then((gltf) => {
        gltf.scene.traverse((object) => {
          if (object instanceof THREE.Mesh && wanted)
            setFound({ geometry: object.geometry, pieces: object.userData.pieces ?? [] });
        });
      });
    }
    return () => {
      wanted = false;
    };
  }, [data]);
  return found;
}

function pieceOf(pieces: number[], face: number): number {
  let at = 0;
  while (at + 2 < pieces.length && (pieces[at + 1] ?? 0) <= face) at++;
  return at;
}

const RunMesh = memo(function RunMesh({ figures }: { figures: RunFigures }) {
  const shown = useShown();
  const found = useMesh(figures.key);
  const { selected, piece, select, toggle, pointAt: point } = useWindow();
  const on = selected.includes(figures.id);
  const run = runById(shown, figures.id);
  const tone = toneOf(sectionById(shown, run?.section)?.material);
  const edges = useMemo(
    () => (found && (found.geometry.index?.count ?? 0) < 200_000 ? new THREE.EdgesGeometry(found.geometry, 24) : null),
    [found],
  );
  const chosen = useMemo(
    () => (found && on && piece !== null ? slice(found.geometry, found.pieces[piece], found.pieces[piece + 1]) : null),
    [found, on, piece],
  );
  const { invalidate } = useThree();
  useEffect(() => invalidate(), [found, on, piece, invalidate]);
  if (!found) return null;
  const pick = (event: ThreeEvent<MouseEvent>) => {
    if (event.delta > 4) return;
    event.stopPropagation();
    if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(figures.id);
    else select([figures.id], pieceOf(found.pieces, event.faceIndex ?? 0));
  };
  const over = (event: ThreeEvent<PointerEvent>) => {
    event.stopPropagation();
    const line = lineById(shown, run?.line);
    if (on && line) point({ line: line.id, chainage: nearestOn(line, event.point.x, event.point.y).chainage });
  };
  return (
    <group position={figures.origin as Point3}>
      <mesh
        geometry={found.geometry}
        castShadow
        receiveShadow
        onClick={pick}
        onPointerMove={over}
        onPointerOut={() => point(null)}
      >
        <meshStandardMaterial color={on ? CHALK : tone.face} roughness={0.75} metalness={0} />
      </mesh>
      {chosen && (
        <mesh geometry={chosen} raycast={() => null}>
          <meshStandardMaterial
            color="#2a68a8"
            roughness={0.75}
            polygonOffset
            polygonOffsetFactor={-1}
            polygonOffsetUnits={-1}
          />
        </mesh>
      )}
      {edges && (
        <lineSegments geometry={edges} raycast={() => null}>
          <lineBasicMaterial color={on ? CHALK_DEEP : tone.edge} transparent opacity={on ? 0.9 : 0.45} />
        </lineSegments>
      )}
    </group>
  );
});

/** A backdrop wall. Parts that stand between the eye and the room are only hinted at. */
function Wall({ figures, side }: { figures: LineFigures; side: "left" | "right" }) {
  const found = useMesh(figures.wall ?? "");
  const origin = figures.origin as Point3;
  const parts = useMemo(() => {
    if (!found) return [];
    return figures.wall_footprints.flatMap((footprint, i) => {
      const part = slice(found.geometry, found.pieces[i], found.pieces[i + 1]);
      if (!part || footprint.length < 4) return [];
      // A footprint goes out along the wall's left side and back along its right; the line is on the side away from the wall.
      const [a, b] = (side === "right" ? [footprint[0], footprint[1]] : [footprint[3], footprint[2]]) as [
        [number, number],
        [number, number],
      ];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const toRoom = side === "right" ? new THREE.Vector3(-dy, dx, 0) : new THREE.Vector3(dy, -dx, 0);
      return [
        { part, toRoom, point: new THREE.Vector3(a[0], a[1], origin[2]), edges: new THREE.EdgesGeometry(part, 30) },
      ];
    });
  }, [found, figures, side, origin]);
  return (
    <group position={origin}>
      {parts.map((part, i) => (
        <WallPart key={i} {...part} />
      ))}
    </group>
  );
}

/** Return the faces from one place to another as a geometry of their own, sharing the vertices. */
function slice(
  geometry: THREE.BufferGeometry,
  from: number | undefined,
  to: number | undefined,
): THREE.BufferGeometry | null {
  if (from === undefined || to === undefined || !geometry.index) return null;
  const part = new THREE.BufferGeometry();
  part.setAttribute("position", geometry.getAttribute("position"));
  part.setAttribute("normal", geometry.getAttribute("normal"));
  part.setIndex(new THREE.BufferAttribute(geometry.index.array.slice(from * 3, to * 3), 1));
  return part;
}

function WallPart({
  part,
  toRoom,
  point,
  edges,
}: {
  part: THREE.BufferGeometry;
  toRoom: THREE.Vector3;
  point: THREE.Vector3;
  edges: THREE.BufferGeometry;
}) {
  const mesh = useRef<THREE.Mesh>(null);
  const outline = useRef<THREE.LineSegments>(null);
  const eye = useMemo(() => new THREE.Vector3(), []);
  useFrame(({ camera }) => {
    if (!mesh.current || !outline.current) return;
    const hides = eye.copy(camera.position).sub(point).dot(toRoom) < 0;
    mesh.current.visible = !hides;
    (outline.current.material as THREE.LineBasicMaterial).opacity = hides ? 0.16 : 0.3;
  });
  return (
    <>
      <mesh ref={mesh} geometry={part} receiveShadow castShadow raycast={() => null}>
        <meshStandardMaterial color="#f4f0e7" roughness={0.95} />
      </mesh>
      <lineSegments ref={outline} geometry={edges} raycast={() => null}>
        <lineBasicMaterial color="#7c776a" transparent opacity={0.3} />
      </lineSegments>
    </>
  );
}

const Items = memo(function Items({ figures, row }: { figures: RowFigures; row: Row }) {
  const places = useOneRowPlaces(figures);
  const mesh = useRef<THREE.InstancedMesh>(null);
  const { selected, select, toggle, pointAt: point } = useWindow();
  const { invalidate } = useThree();
  const on = selected.includes(row.id);
  const count = places ? places.length / 5 : 0;
  const item = row.item;
  const geometry = useMemo(() => {
    const shape =
      item.kind === "box"
        ? new THREE.BoxGeometry(item.along, item.across, item.height)
        : new THREE.CylinderGeometry(item.diameter / 2, item.diameter / 2, item.height, count > 5000 ? 8 : 28).rotateX(
            Math.PI / 2,
          );
    return shape.translate(0, 0, item.height / 2);
  }, [item, count]);
  useEffect(() => {
    if (!mesh.current || !places) return;
    const matrix = new THREE.Matrix4();
    for (let i = 0; i < count; i++) {
      const [x, y, z, heading] = places.subarray(i * 5, i * 5 + 4) as unknown as [number, number, number, number];
      matrix.makeRotationZ(heading).setPosition(x, y, z);
      mesh.current.setMatrixAt(i, matrix);
    }
    mesh.current.instanceMatrix.needsUpdate = true;
    mesh.current.computeBoundingSphere();
    invalidate();
  }, [places, count, invalidate]);
  useEffect(() => invalidate(), [on, invalidate]);
  if (!places || !count) return null;
  return (
    <group position={figures.origin as Point3}>
      <instancedMesh
        key={count}
        ref={mesh}
        args={[geometry, undefined, count]}
        castShadow
        receiveShadow
        onClick={(event) => {
          if (event.delta > 4) return;
          event.stopPropagation();
          if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(row.id);
          else select([row.id]);
        }}
        onPointerMove={(event) => {
          event.stopPropagation();
          const chainage = places[(event.instanceId ?? 0) * 5 + 4];
          if (on && chainage !== undefined) point({ line: row.line, chainage });
        }}
        onPointerOut={() => point(null)}
      >
        <meshStandardMaterial color={on ? CHALK : toneOf(row.material).face} roughness={0.7} />
      </instancedMesh>
    </group>
  );
});

function LineMark({ points, closed, id }: { points: Point3[]; closed: boolean; id: string }) {
  const on = useWindow((state) => state.selected.includes(id));
  const { select } = useWindow();
  const object = useMemo(() => {
    const origin = points[0] as Point3;
    const path = (closed ? [...points, origin] : points).map(
      (p) => new THREE.Vector3(p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]),
    );
    const line = new THREE.Line(
      new THREE.BufferGeometry().setFromPoints(path),
      new THREE.LineBasicMaterial({ transparent: true }),
    );
    line.position.set(...origin);
    return line;
  }, [points, closed]);
  object.material.color.set(on ? "#2a68a8" : "#7ba3cc");
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

function PointerMark({ size }: { size: number }) {
  const shown = useShown();
  const pointed = useWindow((state) => state.pointed);
  const selected = useWindow((state) => state.selected);
  const { invalidate } = useThree();
  useEffect(() => invalidate(), [pointed, invalidate]);
  const line = lineById(shown, pointed?.line);
  if (!pointed || !line) return null;
  const [x, y, z] = pointAt(line, pointed.chainage);
  const lift = runById(shown, selected[0])?.placing?.lift ?? 0;
  return (
    <mesh position={[x, y, z + lift]} raycast={() => null} renderOrder={5}>
      <sphereGeometry args={[size / 260, 20, 14]} />
      <meshBasicMaterial color="#174a80" depthTest={false} transparent />
    </mesh>
  );
}

function FaultMarks({ size }: { size: number }) {
  const shown = useShown();
  const { select } = useWindow();
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
              color={check.severity === "fault" ? "#ad3427" : "#b97a14"}
              depthTest={false}
              transparent
            />
          </mesh>
        );
      })}
    </>
  );
}

const compass = ["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"];

function Camera({ size, tell }: { size: number; tell: (words: string) => void }) {
  const { camera, gl, invalidate, size: sheet } = useThree();
  const shown = useShown();
  const { fit, look, set } = useWindow();
  const controls = useRef<OrbitControls | null>(null);
  const perspective = camera as THREE.PerspectiveCamera;

  useEffect(() => {
    const orbit = new OrbitControls(camera, gl.domElement);
    orbit.maxPolarAngle = Math.PI * 0.495;
    orbit.zoomToCursor = true;
    controls.current = orbit;
    const changed = () => {
      const from = new THREE.Vector3().subVectors(camera.position, orbit.target);
      const bearing = (Math.atan2(from.x, from.y) * 180) / Math.PI;
      tell(`from the ${compass[((Math.round(bearing / 45) % 8) + 8) % 8]}`);
      invalidate();
    };
    orbit.addEventListener("change", changed);
    return () => {
      orbit.removeEventListener("change", changed);
      orbit.dispose();
    };
  }, [camera, gl, invalidate, tell]);

  const wide = sheet.width > 0;
  const fittedFor = useRef<string>("");
  useEffect(() => {
    const orbit = controls.current;
    if (!orbit || !wide) return;
    const first = fittedFor.current === "";
    if (!first && fittedFor.current === String(fit)) return;
    fittedFor.current = String(fit);
    const chosen = fit && !first ? useWindow.getState().selected : [];
    const heights = [...chosen.map((id) => runById(shown, id)?.placing?.lift ?? 0), chosen.length ? 0 : 2500];
    const points = fitPoints(shown, chosen).flatMap((point) => [
      new THREE.Vector3(...point),
      new THREE.Vector3(point[0], point[1], point[2] + Math.max(...heights)),
    ]);
    const box = new THREE.Box3().setFromPoints(points);
    const middle = box.getCenter(new THREE.Vector3());
    const from = first
      ? new THREE.Vector3(-0.34, -0.86, 0.6)
      : new THREE.Vector3().subVectors(camera.position, orbit.target);
    from.normalize();
    // As near as every corner still stays in the picture, and the picture in the middle of the sheet.
    const half = Math.tan((perspective.fov * Math.PI) / 360);
    const aspect = sheet.width / sheet.height;
    const right = new THREE.Vector3().crossVectors(new THREE.Vector3(0, 0, 1), from).normalize();
    const up = new THREE.Vector3().crossVectors(from, right);
    let distance = 1500;
    for (let round = 0; round < 4; round++) {
      const seen = points.map((point) => point.clone().sub(middle));
      distance = Math.max(
        1500,
        ...seen.map(
          (away) =>
            away.dot(from) + Math.max(Math.abs(away.dot(right)) / aspect, Math.abs(away.dot(up))) * (1.14 / half),
        ),
      );
      const place = (axis: THREE.Vector3) => {
        const shares = seen.map((away) => away.dot(axis) / (distance - away.dot(from)));
        return ((Math.min(...shares) + Math.max(...shares)) / 2) * distance;
      };
      middle.addScaledVector(right, place(right)).addScaledVector(up, place(up));
    }
    orbit.target.copy(middle);
    camera.position.copy(middle).addScaledVector(from, distance);
    perspective.near = Math.max(20, size / 400);
    perspective.far = size * 12 + distance;
    perspective.updateProjectionMatrix();
    orbit.update();
    invalidate();
  }, [fit, wide, shown, camera, perspective, size, sheet, invalidate]);

  useEffect(() => {
    const orbit = controls.current;
    if (!look || !orbit) return;
    const from = new THREE.Vector3().subVectors(camera.position, orbit.target).normalize();
    orbit.target.set(...look);
    camera.position.copy(orbit.target).addScaledVector(from, Math.min(size / 5, 4500));
    orbit.update();
    set({ look: null });
    invalidate();
  }, [look, camera, size, set, invalidate]);

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const orbit = controls.current;
      if (!orbit || (event.target instanceof HTMLElement && event.target.matches("input, textarea, [data-row]")))
        return;
      const from = new THREE.Vector3().subVectors(camera.position, orbit.target);
      const turn = { ArrowLeft: -0.1, ArrowRight: 0.1 }[event.key];
      const tilt = { ArrowUp: -0.08, ArrowDown: 0.08 }[event.key];
      if (turn) from.applyAxisAngle(new THREE.Vector3(0, 0, 1), turn);
      else if (tilt) {
        const around = new THREE.Spherical().setFromVector3(new THREE.Vector3(from.y, from.z, from.x));
        around.phi = Math.min(Math.PI * 0.49, Math.max(0.05, around.phi + tilt));
        const moved = new THREE.Vector3().setFromSpherical(around);
        from.set(moved.z, moved.x, moved.y);
      } else if (event.key === "+" || event.key === "=") from.multiplyScalar(0.85);
      else if (event.key === "-") from.multiplyScalar(1 / 0.85);
      else return;
      event.preventDefault();
      camera.position.copy(orbit.target).add(from);
      orbit.update();
      invalidate();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [camera, invalidate]);
  return null;
}
