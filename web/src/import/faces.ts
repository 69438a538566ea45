/** The faces of a mesh that is brought in: fetched, looked through fast, and the loops around them. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { acceleratedRaycast, computeBoundsTree } from "three-mesh-bvh";
import { Failed, problemOf } from "../api/client";
import type { ReadOptions } from "./reading";

export interface Faces {
  /** Triangles, those of a face one after another, from `pieces[face]` on. */
  geometry: THREE.BufferGeometry;
  pieces: number[];
  /** Both ends of each edge of the loops, one loop after another: those of loop j from edge `begins[j]` on. */
  ends: Float32Array;
  begins: number[];
  /** The loops around each face. */
  around: number[][];
}

const loader = new GLTFLoader();

async function fetched(content: string, options: ReadOptions): Promise<Faces> {
  const got = await fetch(`/api/imports/${content}/faces`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ options }),
  });
  if (!got.ok) {
    const text = await got.json().catch(() => null);
    throw new Failed(text ?? { ...problemOf(new Error(`${got.status}`)), status: got.status });
  }
  const gltf = await loader.parseAsync(await got.arrayBuffer(), "");
  const found: Partial<Faces> = { ends: new Float32Array(), begins: [0], around: [] };
  let of: number[] = [];
  gltf.scene.traverse((object) => {
    if (object instanceof THREE.LineSegments) {
      found.ends = object.geometry.getAttribute("position").array as Float32Array;
      found.begins = object.userData.begins;
      of = object.userData.of;
    } else if (object instanceof THREE.Mesh) {
      found.geometry = object.geometry;
      found.pieces = object.userData.pieces;
    }
  });
  const faces = found as Faces;
  faces.around = faces.pieces.slice(1).map(() => []);
  of.forEach((face, loop) => {
    faces.around[face]?.push(loop);
  });
  // Pointing looks through a million triangles many times a second: the tree leaves them in their order.
  computeBoundsTree.call(faces.geometry, { indirect: true });
  return faces;
}

export function useFaces(content: string, options: ReadOptions, wanted: boolean) {
  const { data, error } = useQuery({
    queryKey: ["faces", content, options],
    queryFn: () => fetched(content, options),
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    retry: 0,
  });
  // The last one stays in sight while another is read.
  const [kept, setKept] = useState<Faces | undefined>(data);
  useEffect(() => {
    if (data) setKept(data);
  }, [data]);
  useEffect(() => () => kept?.geometry.dispose(), [kept]);
  return { faces: data ?? kept, failed: error ? problemOf(error) : null };
}

/** A mesh that is looked through by its tree. */
export class FacesMesh extends THREE.Mesh {
  raycast(raycaster: THREE.Raycaster, intersects: THREE.Intersection[]) {
    acceleratedRaycast.call(this, raycaster, intersects);
  }
}

/** The face that a triangle is of. */
export function faceOf({ pieces }: Faces, triangle: number): number {
  let [low, high] = [0, pieces.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if ((pieces[middle] ?? 0) <= triangle) low = middle;
    else high = middle;
  }
  return low;
}

/** Some faces as a geometry of their own, sharing the vertices. */
export function partOf({ geometry, pieces }: Faces, faces: number[]): THREE.BufferGeometry | null {
  const index = geometry.index?.array;
  if (!index || !faces.length) return null;
  const parts = faces.map((face) => index.slice((pieces[face] ?? 0) * 3, (pieces[face + 1] ?? 0) * 3));
  const all = new Uint32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  const part = new THREE.BufferGeometry();
  part.setAttribute("position", geometry.getAttribute("position"));
  part.setIndex(new THREE.BufferAttribute(all, 1));
  return part;
}

/** Both ends of each edge of some loops. */
export function endsOf({ ends, begins }: Faces, loops: number[]): number[] {
  return loops.flatMap((loop) => [...ends.subarray((begins[loop] ?? 0) * 6, (begins[loop + 1] ?? 0) * 6)]);
}

/** The loop of a face that passes a place within a reach, where one does. */
export function loopNear(faces: Faces, face: number, place: THREE.Vector3, reach: number): number | null {
  let [best, nearest]: [number | null, number] = [null, reach];
  const [line, on] = [new THREE.Line3(), new THREE.Vector3()];
  for (const loop of faces.around[face] ?? []) {
    for (let edge = faces.begins[loop] ?? 0; edge < (faces.begins[loop + 1] ?? 0); edge++) {
      line.start.fromArray(faces.ends, edge * 6);
      line.end.fromArray(faces.ends, edge * 6 + 3);
      const away = line.closestPointToPoint(place, true, on).distanceTo(place);
      if (away < nearest) [best, nearest] = [loop, away];
    }
  }
  return best;
}
