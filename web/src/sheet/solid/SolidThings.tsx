/** What stands in the 3D sheet: runs from their meshes, items as instances, backdrop walls. */

import { type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { memo, useContext, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import type { ItemFigures, LineFigures, Point3, Row, RowFigures, RunFigures } from "../../api/client";
import { outlineOf } from "../../api/merging";
import { colour } from "../../ui/colour";
import { JobId, useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { usePart } from "../../window/store";
import { lineById, nearestOn, pathOf, runById, sectionById } from "../../window/things";
import { useDisposed } from "../disposing";
import { STRIDE } from "../items";
import { meshQuery, useOneRowPlaces } from "../places";
import { toneOf } from "../tones";
import { hangerMatrix, hangerOf, itemMatrix, numbersOf } from "./itemShape";
import { useItemShape } from "./useItemShape";

const CHALK = colour("chalk");
const CHALK_DEEP = colour("chalk-deep");

/** The colour of what is selected: its own with a tint of chalk, so that it keeps its shading; a piece of it has more. */
export const tinted = (colour: string, share: number) => new THREE.Color(colour).lerp(new THREE.Color(CHALK), share);

const loader = new GLTFLoader();

/** Return a run's geometry from its binary glTF, and where its pieces begin among the faces. */
export function useMesh(
  key: string,
  origin: Point3,
  like = key,
): { geometry: THREE.BufferGeometry; pieces: number[] } | null {
  const job = useContext(JobId);
  const camera = useThree((state) => state.camera);
  const far = Math.hypot(...camera.position.toArray().map((at, i) => at - (origin[i] ?? 0)));
  const { data } = useQuery({ ...meshQuery(job, key, far, like), enabled: key !== "" });
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
  useDisposed(found?.geometry ?? null);
  return found;
}

/** The piece that a face belongs to; none where it is one of what stands where pieces end. */
function pieceOf(pieces: number[], face: number): number | null {
  if (face >= (pieces[pieces.length - 1] ?? 0)) return null;
  let at = 0;
  while (at + 2 < pieces.length && (pieces[at + 1] ?? 0) <= face) at++;
  return at;
}

export const RunMesh = memo(function RunMesh({ figures }: { figures: RunFigures }) {
  const shown = useShown();
  const found = useMesh(figures.key, figures.origin as Point3, figures.drawn_as);
  const {
    selected,
    piece,
    select,
    toggle,
    pointAt: point,
  } = usePart("selected", "piece", "select", "toggle", "pointAt");
  const on = isIn(selected, figures.id);
  const run = runById(shown, figures.id);
  const tone = toneOf(sectionById(shown, run?.section)?.material);
  const edges = useMemo(
    () => (found && (found.geometry.index?.count ?? 0) < 200_000 ? arrises(found.geometry, found.pieces) : null),
    [found],
  );
  const chosen = useMemo(
    () => (found && on && piece !== null ? slice(found.geometry, found.pieces[piece], found.pieces[piece + 1]) : null),
    [found, on, piece],
  );
  useDisposed(edges);
  useDisposed(chosen);
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
    if (on && line)
      point({ line: line.id, chainage: nearestOn(pathOf(shown, line), event.point.x, event.point.y).chainage });
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
        <meshStandardMaterial
          color={on ? tinted(tone.face, 0.42) : tone.face}
          roughness={0.75}
          metalness={0}
          // A little back, so that the arrises lie on it.
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      {chosen && (
        <mesh geometry={chosen} raycast={() => null}>
          <meshStandardMaterial
            color={tinted(tone.face, 0.82)}
            roughness={0.75}
            polygonOffset
            polygonOffsetFactor={-1}
            polygonOffsetUnits={-1}
          />
        </mesh>
      )}
      {edges && (
        <lineSegments geometry={edges} raycast={() => null}>
          <lineBasicMaterial color={on ? CHALK_DEEP : tone.edge} transparent opacity={on ? 1 : 0.6} />
        </lineSegments>
      )}
    </group>
  );
});

/** The arrises of a run, piece by piece, so that the outline in which a piece ends is among them where the next goes on in line. */
function arrises(geometry: THREE.BufferGeometry, pieces: number[]): THREE.BufferGeometry {
  // What stands where pieces end comes after the last of them.
  const bounds = [...pieces, (geometry.index?.count ?? 0) / 3];
  const found: number[] = [];
  for (let at = 0; at + 1 < bounds.length; at++) {
    const piece = (bounds[at + 1] ?? 0) > (bounds[at] ?? 0) ? slice(geometry, bounds[at], bounds[at + 1]) : null;
    if (!piece) continue;
    const edges = new THREE.EdgesGeometry(piece, 24);
    for (const value of edges.getAttribute("position").array) found.push(value);
    edges.dispose();
  }
  const all = new THREE.BufferGeometry();
  all.setAttribute("position", new THREE.Float32BufferAttribute(found, 3));
  return all;
}

/** A backdrop wall. Parts that stand between the eye and the room are only hinted at. */
export function Wall({ figures, side }: { figures: LineFigures; side: "left" | "right" }) {
  const found = useMesh(figures.wall ?? "", figures.origin as Point3);
  const origin = figures.origin as Point3;
  const parts = useMemo(() => {
    if (!found) return [];
    return figures.wall_footprints.flatMap((footprint, i) => {
      const part = slice(found.geometry, found.pieces[i], found.pieces[i + 1]);
      const edge = outlineOf(footprint[0] ?? []);
      if (!part || edge.length < 4) return [];
      // A footprint goes out along the wall's left side and back along its right; the line is on the side away from the wall.
      const half = edge.length / 2;
      const ends = side === "right" ? [edge[0], edge[half - 1]] : [edge.at(-1), edge[half]];
      const [a, b] = ends as [[number, number], [number, number]];
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
  useDisposed(part);
  useDisposed(edges);
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
        <meshStandardMaterial color={colour("wall")} roughness={0.95} />
      </mesh>
      <lineSegments ref={outline} geometry={edges} raycast={() => null}>
        <lineBasicMaterial color={colour("arris")} transparent opacity={0.3} />
      </lineSegments>
    </>
  );
}

export const Items = memo(function Items({ figures, row }: { figures: RowFigures; row: Row }) {
  const places = useOneRowPlaces(figures);
  if (!places) return null;
  return (
    <group position={figures.origin as Point3}>
      {figures.items.map((item, letter) => (
        <Alike key={item.letter} {...{ item, letter, places, row }} />
      ))}
      {figures.items.map((item, letter) => {
        const hanger = hangerOf(item);
        return hanger && <Alike key={`${item.letter} hanger`} {...{ item, letter, places, row, hanger }} />;
      })}
    </group>
  );
});

/** All items of a row that are alike, as instances. */
function Alike({
  item,
  letter,
  places,
  row,
  hanger,
}: {
  item: ItemFigures;
  letter: number;
  places: Float32Array;
  row: Row;
  /** The ends of the hanger, where it is the hangers that are drawn. */
  hanger?: [number, number];
}) {
  const mesh = useRef<THREE.InstancedMesh>(null);
  const { selected, select, toggle, pointAt: point } = usePart("selected", "select", "toggle", "pointAt");
  const { invalidate } = useThree();
  const on = isIn(selected, row.id);
  const numbers = useMemo(() => numbersOf(places, letter), [places, letter]);
  const count = numbers.length;
  const geometry = useItemShape(mesh, item, count, hanger !== undefined);
  useEffect(() => {
    if (!mesh.current) return;
    const matrix = new THREE.Matrix4();
    numbers.forEach((number, i) => {
      mesh.current?.setMatrixAt(
        i,
        hanger ? hangerMatrix(places, number, hanger, matrix) : itemMatrix(places, number, matrix),
      );
    });
    mesh.current.instanceMatrix.needsUpdate = true;
    mesh.current.computeBoundingSphere();
    invalidate();
  }, [places, numbers, hanger, invalidate]);
  useEffect(() => invalidate(), [on, invalidate]);
  if (!count) return null;
  const tone = toneOf(item.material);
  return (
    <instancedMesh
      key={count}
      ref={mesh}
      args={[undefined, undefined, count]}
      geometry={geometry}
      // Shadows of more items than this would fill the ground, and cost as much as the items.
      castShadow={count <= 20_000 && !item.glass}
      receiveShadow
      onClick={(event) => {
        if (event.delta > 4) return;
        event.stopPropagation();
        if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(row.id);
        else select([row.id]);
      }}
      onPointerMove={(event) => {
        event.stopPropagation();
        const chainage = places[(numbers[event.instanceId ?? 0] ?? 0) * STRIDE + 4];
        if (on && chainage !== undefined) point({ line: row.line, chainage });
      }}
      onPointerOut={() => point(null)}
    >
      <meshStandardMaterial
        color={on ? tinted(tone.face, 0.5) : tone.face}
        roughness={0.7}
        transparent={item.glass}
        opacity={item.glass ? 0.35 : 1}
      />
    </instancedMesh>
  );
}
