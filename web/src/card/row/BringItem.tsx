/** An item brought in from a mesh file: how large it is and how it stands are asked once, and shown. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import { answer, api, type BroughtFigures, type Problem, problemOf } from "../../api/client";
import { useBrought } from "../../sheet/solid/brought";
import { lookAtAll, useOrbit } from "../../sheet/solid/orbit";
import { Button, Choice, Pick } from "../../ui/choices";
import { colour } from "../../ui/colour";
import { LengthField, Setting, TextField } from "../../ui/fields";
import { formatLength, grouped } from "../../ui/figures";
import { Modal, ModalFoot } from "../../ui/Modal";
import { useUnits } from "../../window/job";
import { type Item, quarters } from "./itemKinds";

export type BroughtItem = Extract<Item, { kind?: "brought" }> & { kind: "brought" };
type Unit = BroughtFigures["unit"];
type Upright = BroughtFigures["upright"];

const unitWords: Record<Unit, string> = { mm: "millimetres", cm: "centimetres", m: "metres", in: "inches", ft: "feet" };

export function BringItem({
  take,
  close,
}: {
  take: (item: BroughtItem) => Promise<Problem | null>;
  close: () => void;
}) {
  const units = useUnits();
  const input = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<BroughtFigures | null>(null);
  const [called, setCalled] = useState("");
  const [front, setFront] = useState<0 | 90 | 180 | 270>(0);
  const [height, setHeight] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState("");
  const reading = async (asked: Promise<BroughtFigures>) => {
    setBusy(true);
    setWrong("");
    try {
      setRead(await asked);
      setHeight(null);
    } catch (error) {
      setWrong(problemOf(error).detail);
    }
    setBusy(false);
  };
  const choose = (file: File | undefined) => {
    if (!file) return;
    setCalled(file.name.replace(/\.\w+$/, "").slice(0, 120) || "Item");
    const form = new FormData();
    form.append("file", file);
    void reading(
      answer<BroughtFigures>(
        api.POST("/api/items", { params: {}, body: form as never, bodySerializer: (body) => body as never }),
      ),
    );
  };
  const again = (unit: Unit, upright: Upright) => {
    if (!read) return;
    const params = { path: { content: read.original }, query: { unit, upright } };
    void reading(answer<BroughtFigures>(api.POST("/api/items/{content}", { params })));
  };
  const use = async () => {
    if (!read) return;
    const { content, own, filled } = read;
    const item = { kind: "brought", content, called, own, filled, front, height: height ?? own[2] } as BroughtItem;
    const problem = await take(item);
    if (problem) setWrong(problem.detail);
  };
  const scale = read ? (height ?? read.own[2]) / read.own[2] : 1;
  const [along = 0, across = 0, high = 0] = (read?.own ?? []).map((side) => side * scale);
  const [wide, deep] = front % 180 ? [across, along] : [along, across];
  return (
    <Modal title="Bring in an item" close={close} wide>
      <input
        ref={input}
        type="file"
        accept=".glb,.gltf,.obj,.stl,.ply"
        aria-label="File of the item"
        className="hidden"
        onChange={(event) => {
          choose(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {!read ? (
        <p>
          A glTF (.glb), OBJ, STL or PLY file, up to 50 MB. It is kept with the job, drawn as it is in 3D, and counted
          by its name.
          <span className="mt-4 block">
            <Button disabled={busy} onClick={() => input.current?.click()}>
              {busy ? "Reading the file …" : "Choose a file"}
            </Button>
          </span>
        </p>
      ) : (
        <div className="grid grid-cols-[1fr_300px] gap-5">
          <figure>
            <div className="h-[340px] overflow-hidden rounded-[3px] border border-rule">
              <Canvas
                flat
                frameloop="demand"
                dpr={[1, 2]}
                camera={{ fov: 32, up: [0, 0, 1] }}
                aria-label="The item, turning"
                className="bg-[linear-gradient(var(--color-far),var(--color-near))]"
              >
                <Turning content={read.content} own={read.own} front={front} />
              </Canvas>
            </div>
            <figcaption className="mt-1 text-pencil text-sm">
              The arrow is the line it will stand on. Drag to turn it.
            </figcaption>
          </figure>
          <div>
            <TextField
              label="Name"
              value={called}
              take={async (name) => {
                setCalled(name.slice(0, 120) || called);
                return null;
              }}
            />
            <Setting label="Its unit">
              <Pick
                label="Its unit"
                value={read.unit}
                ways={(Object.keys(unitWords) as Unit[]).map((unit): [Unit, string] => [
                  unit,
                  `${unitWords[unit]}: ${formatLength(read.sizes[unit] ?? 0, units)}`,
                ])}
                choose={(unit) => again(unit, read.upright)}
              />
            </Setting>
            {!read.unit_known && (
              <p className="mb-1 text-pencil text-sm">The file does not say its unit: how long is its longest side?</p>
            )}
            <Setting label="Up is its">
              <Choice
                label="Up is its"
                value={read.upright}
                ways={[
                  ["z", "Z axis"],
                  ["y", "Y axis"],
                ]}
                choose={(upright) => again(read.unit, upright)}
              />
            </Setting>
            <Setting label="Turned on its foot by">
              <Pick
                label="Turned on its foot by"
                value={String(front)}
                ways={quarters}
                choose={(by) => setFront(Number(by) as typeof front)}
              />
            </Setting>
            <LengthField
              label="Height"
              mm={height ?? read.own[2]}
              take={async (mm) => {
                setHeight(mm);
                return null;
              }}
            />
            <p className="mt-2 text-sm">
              {formatLength(wide, units)} along the line, {formatLength(deep, units)} across,{" "}
              {formatLength(high, units)} high.
            </p>
            <p className="mt-1 text-pencil text-sm">
              {read.filled === null
                ? "Its faces do not close: it has no volume and no weight. "
                : `It fills ${Math.round(read.filled * 1000) / 10} % of the box around it. `}
              {read.drawn < read.triangles
                ? `${grouped(String(read.triangles))} triangles, drawn with ${grouped(String(read.drawn))}.`
                : `${grouped(String(read.triangles))} triangles.`}
            </p>
          </div>
        </div>
      )}
      <ModalFoot
        wrong={wrong}
        close={close}
        act={() => void use()}
        words={busy && read ? "Reading …" : "Use this item"}
        disabled={!read || busy}
      />
    </Modal>
  );
}

/** The item on a floor, with the line it will stand on and the way of travel. */
function Turning({ content, own, front }: { content: string; own: readonly [number, number, number]; front: number }) {
  const { camera, size, invalidate } = useThree();
  const controls = useOrbit(undefined, true);
  const shape = useBrought({ content, scale: 1, turn: front });
  const large = Math.hypot(...own);
  useEffect(() => {
    const orbit = controls.current;
    if (!orbit || !size.width || !shape) return;
    shape.computeBoundingBox();
    const box = shape.boundingBox as THREE.Box3;
    lookAtAll(camera as THREE.PerspectiveCamera, orbit, box, size.width / size.height);
    invalidate();
  }, [shape, size, camera, invalidate, controls]);
  const reach = Math.max(own[0], own[1]) * 0.8;
  return (
    <>
      <hemisphereLight args={[colour("sky"), colour("ground"), 1.9]} position={[0, 0, 1]} />
      <directionalLight position={[-large, -large, 2 * large]} intensity={1.6} />
      {shape && (
        <mesh geometry={shape}>
          <meshStandardMaterial color={colour("wall")} roughness={0.8} />
        </mesh>
      )}
      <arrowHelper
        key={reach}
        args={[
          new THREE.Vector3(1, 0, 0),
          new THREE.Vector3(-reach, 0, 0),
          2 * reach,
          colour("chalk"),
          reach * 0.16,
          reach * 0.09,
        ]}
      />
    </>
  );
}
