/** What is drawn once, in 3D in its other places: meshes that are sent once and drawn as instances. */
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import type { ItemFigures, PlaceFigures, Point3, RowFigures, RunFigures, Typical } from "../../api/client";
import { colour } from "../../ui/colour";
import { carried, type Stands, standing } from "../../window/instances";
import { useShown } from "../../window/job";
import { isIn } from "../../window/selection";
import { usePart } from "../../window/store";
import { runById, sectionById } from "../../window/things";
import { useDisposed } from "../disposing";
import { useOneRowPlaces } from "../places";
import { toneOf } from "../tones";
import { itemMatrix, numbersOf } from "./itemShape";
import { PaneMaterial, type PaneShape, paneGeometry } from "./SolidPane";
import { tinted, useMesh } from "./SolidThings";
import { useItemShape } from "./useItemShape";

/** Arrises are drawn in so many places at most. */
const EDGED = 200;

export function SolidPlaces() {
  const shown = useShown();
  return shown.job.typicals?.map((typical) =>
    standing(shown, typical.id).map((variant) =>
      [false, true].map((over) => {
        const places = variant.places.filter((place) => place.over === over);
        return (
          places.length > 0 && (
            <Places key={`${typical.id} ${variant.number} ${over}`} {...{ typical, variant, places, over }} />
          )
        );
      }),
    ),
  );
}

interface Standing {
  typical: Typical;
  variant: Stands;
  places: PlaceFigures[];
  /** Whether it is mirrored in them. */
  over: boolean;
}

function Places({ typical, variant, places, over }: Standing) {
  return (
    // What is mirrored is so as a whole: the instances within are turned and moved so that they come to lie where they should.
    <group scale={[over ? -1 : 1, 1, 1]}>
      {variant.runs.map((run) => (
        <RunInPlaces key={run.id} {...{ run, typical, places, over }} />
      ))}
      {variant.rows.map((row) => (
        <RowInPlaces key={row.id} {...{ row, typical, places, over }} />
      ))}
      {[...new Set(variant.panes.map((pane) => pane.of))].map((of) => (
        <PanesInPlaces
          key={of}
          panes={variant.panes.filter((pane) => pane.of === of)}
          {...{ of, typical, places, over }}
        />
      ))}
      {places.length <= EDGED && <LinesInPlaces {...{ typical, variant, places, over }} />}
    </group>
  );
}

/** How an instance stands in a place, from where it is drawn; `within` a group that is mirrored. */
function instance(place: PlaceFigures, over: boolean): THREE.Matrix4 {
  const [x, y, z] = place.shift as Point3;
  const way = over ? -1 : 1;
  return new THREE.Matrix4().makeRotationZ(way * place.turn).setPosition(way * x, y, z);
}

/** Keep the matrices and tints of instances as they should be. */
function useInstances(
  count: number,
  matrixOf: (index: number) => THREE.Matrix4,
  colourOf: (index: number) => THREE.Color,
  on: unknown[],
) {
  const mesh = useRef<THREE.InstancedMesh>(null);
  const { invalidate } = useThree();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the instances hang on is given
  useEffect(() => {
    if (!mesh.current) return;
    for (let i = 0; i < count; i++) {
      mesh.current.setMatrixAt(i, matrixOf(i));
      mesh.current.setColorAt(i, colourOf(i));
    }
    mesh.current.instanceMatrix.needsUpdate = true;
    if (mesh.current.instanceColor) mesh.current.instanceColor.needsUpdate = true;
    mesh.current.computeBoundingSphere();
    invalidate();
  }, [count, invalidate, ...on]);
  return mesh;
}

/** Picking a place by one of its instances; `each` are so many of a place. */
function usePicking(typical: Typical, places: PlaceFigures[], each = 1) {
  const { pickPlace } = usePart("pickPlace");
  return (event: ThreeEvent<MouseEvent>) => {
    if (event.delta > 4) return;
    event.stopPropagation();
    const place = places[Math.floor((event.instanceId ?? 0) / each)];
    if (place) pickPlace(typical.id, place.name, event.ctrlKey || event.metaKey || event.shiftKey);
  };
}

const NONE: string[] = [];
const WHITE = new THREE.Color("white");

function useTint(typical: Typical, places: PlaceFigures[], face: string) {
  const { selected, places: picked } = usePart("selected", "places");
  const on = isIn(selected, typical.id);
  const names = on ? picked : NONE;
  return {
    on,
    picked: names,
    colourOf: (index: number) =>
      on ? tinted(face, names.includes(places[index]?.name ?? "") ? 0.82 : 0.42) : new THREE.Color(face),
  };
}

function RunInPlaces({ run, typical, places, over }: { run: RunFigures } & Omit<Standing, "variant">) {
  const shown = useShown();
  const found = useMesh(run.key, run.origin as Point3, run.drawn_as);
  const tone = toneOf(sectionById(shown, runById(shown, run.id)?.section)?.material);
  const { on, picked, colourOf } = useTint(typical, places, tone.face);
  const geometry = found?.geometry;
  const matrices = useMemo(() => {
    const origin = new THREE.Matrix4().makeTranslation(...(run.origin as Point3));
    return places.map((place) => instance(place, over).multiply(origin));
  }, [places, over, run.origin]);
  const edges = useMemo(
    () =>
      geometry && places.length <= EDGED && (geometry.index?.count ?? 0) < 200_000
        ? new THREE.EdgesGeometry(geometry, 24)
        : null,
    [geometry, places.length],
  );
  useDisposed(edges);
  const mesh = useInstances(places.length, (i) => matrices[i] as THREE.Matrix4, colourOf, [
    geometry,
    matrices,
    on,
    picked,
    tone.face,
  ]);
  const pick = usePicking(typical, places);
  if (!geometry) return null;
  return (
    <>
      <instancedMesh
        key={places.length}
        ref={mesh}
        args={[geometry, undefined, places.length]}
        castShadow
        receiveShadow
        onClick={pick}
      >
        <meshStandardMaterial roughness={0.75} metalness={0} />
      </instancedMesh>
      {edges &&
        matrices.map((matrix, i) => (
          <lineSegments
            key={places[i]?.name}
            geometry={edges}
            matrix={matrix}
            matrixAutoUpdate={false}
            raycast={() => null}
          >
            <lineBasicMaterial color={on ? tinted(tone.edge, 0.7) : tone.edge} transparent opacity={on ? 1 : 0.45} />
          </lineSegments>
        ))}
    </>
  );
}

/** Panes that are of one kind. */
function PanesInPlaces({
  of,
  panes,
  typical,
  places,
  over,
}: { of: PaneShape["of"]; panes: PaneShape[] } & Omit<Standing, "variant">) {
  const origin = panes[0]?.origin as Point3;
  const geometry = useMemo(() => paneGeometry(panes, origin), [panes, origin]);
  useDisposed(geometry);
  const matrices = useMemo(() => {
    const from = new THREE.Matrix4().makeTranslation(...origin);
    return places.map((place) => instance(place, over).multiply(from));
  }, [places, over, origin]);
  const mesh = useInstances(
    places.length,
    (i) => matrices[i] as THREE.Matrix4,
    () => WHITE,
    [geometry, matrices],
  );
  const pick = usePicking(typical, places);
  return (
    <instancedMesh
      key={places.length}
      ref={mesh}
      args={[geometry, undefined, places.length]}
      castShadow={of === "boards"}
      receiveShadow
      onClick={pick}
    >
      <PaneMaterial of={of} />
    </instancedMesh>
  );
}

function RowInPlaces({ row, typical, places, over }: { row: RowFigures } & Omit<Standing, "variant">) {
  const spots = useOneRowPlaces(row);
  if (!spots) return null;
  return row.items.map((item, letter) => (
    <AlikeInPlaces key={item.letter} {...{ row, item, letter, spots, typical, places, over }} />
  ));
}

/** All items of a row that are alike, in all places, as instances. */
function AlikeInPlaces({
  row,
  item,
  letter,
  spots,
  typical,
  places,
  over,
}: { row: RowFigures; item: ItemFigures; letter: number; spots: Float32Array } & Omit<Standing, "variant">) {
  const tone = toneOf(item.material);
  const numbers = useMemo(() => numbersOf(spots, letter), [spots, letter]);
  const each = numbers.length;
  const count = each * places.length;
  const { on, picked, colourOf } = useTint(typical, places, tone.face);
  const matrixOf = (index: number) => {
    const place = places[Math.floor(index / each)] as PlaceFigures;
    const here = itemMatrix(spots, numbers[index % each] ?? 0, new THREE.Matrix4());
    const origin = new THREE.Matrix4().makeTranslation(...(row.origin as Point3));
    return instance(place, over).multiply(origin).multiply(here);
  };
  const mesh = useInstances(count, matrixOf, (index) => colourOf(Math.floor(index / each)), [
    numbers,
    places,
    on,
    picked,
  ]);
  const geometry = useItemShape(mesh, item, count);
  const pick = usePicking(typical, places, each);
  if (!count) return null;
  return (
    <instancedMesh
      key={count}
      ref={mesh}
      args={[undefined, undefined, count]}
      geometry={geometry}
      castShadow={count <= 20_000}
      receiveShadow
      onClick={pick}
    >
      <meshStandardMaterial roughness={0.7} />
    </instancedMesh>
  );
}

/** The lines of a typical in its places, as they are seen where it is drawn. */
function LinesInPlaces({ typical, variant, places, over }: Standing) {
  const { selected } = usePart("selected");
  const on = isIn(selected, typical.id);
  const geometry = useMemo(() => {
    const points = variant.paths.flatMap((path) => path.slice(1).flatMap((point, i) => [path[i] as Point3, point]));
    const all = places.flatMap((place) => points.map((point) => new THREE.Vector3(...carried(place, point))));
    if (over) for (const point of all) point.x = -point.x;
    return new THREE.BufferGeometry().setFromPoints(all);
  }, [variant, places, over]);
  useDisposed(geometry);
  return (
    <lineSegments geometry={geometry} raycast={() => null}>
      <lineBasicMaterial color={colour(on ? "chalk" : "chalk-quiet")} />
    </lineSegments>
  );
}
