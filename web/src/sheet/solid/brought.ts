/** The shapes of items that were brought in: their meshes, fetched by their content. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { toCreasedNormals } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import type { ItemFigures } from "../../api/client";
import { fetchBytes, keptForEver } from "../places";

const loader = new GLTFLoader();
/** An arris is sharp where its faces meet at more than this, radians. */
const SHARP = 0.6;

/** The shape of the mesh of an item, as large and turned as it stands; none while it is on its way. */
export function useBrought(mesh: ItemFigures["mesh"]): THREE.BufferGeometry | null {
  const [content, scale, turn] = [mesh?.content ?? "", mesh?.scale ?? 1, mesh?.turn ?? 0];
  const { data } = useQuery({
    queryKey: ["item", content],
    queryFn: () => fetchBytes(`/api/items/${content}.glb`),
    enabled: content !== "",
    ...keptForEver,
  });
  const [found, setFound] = useState<THREE.BufferGeometry | null>(null);
  useEffect(() => {
    let shape: THREE.BufferGeometry | null = null;
    let wanted = true;
    if (data)
      void loader.parseAsync(data, "").then((gltf) => {
        gltf.scene.traverse((object) => {
          if (!(object instanceof THREE.Mesh) || !wanted) return;
          const bare = new THREE.BufferGeometry().setIndex(object.geometry.index);
          bare.setAttribute("position", object.geometry.getAttribute("position"));
          shape = toCreasedNormals(bare, SHARP)
            .scale(scale, scale, scale)
            .rotateZ((-turn * Math.PI) / 180);
          setFound(shape);
        });
      });
    return () => {
      wanted = false;
      shape?.dispose();
      setFound(null);
    };
  }, [data, scale, turn]);
  return found;
}
