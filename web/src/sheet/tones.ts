/** The tones of materials: face and edge, on plan and in 3D. */
import { materials } from "../api/materials";

export type Material = keyof typeof materials;

export function toneOf(material: Material | undefined) {
  return materials[material ?? "softwood"];
}

/** Every material, with the word for it. */
export const materialWays = (Object.keys(materials) as Material[]).map((name): [Material, string] => [name, name]);

/** What a section may be made of: nothing is sawn from what grows. */
export const sectionMaterialWays = materialWays.filter(([material]) => material !== "foliage");
