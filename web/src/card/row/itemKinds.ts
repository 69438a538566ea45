/** The kinds of items, one entry each: what they are called, and the figures each of them has. */
import type { Row } from "../../api/client";

export type Item = Row["item"];
type Kind = Item["kind"];

export interface ItemKind {
  kind: Kind;
  /** What it is called, and what several of it are. */
  words: string;
  many: string;
  /** The lengths that it has, and what they are called. */
  lengths: [string, string][];
  /** One of a few ways that it can be: its field, what it is called, the ways. */
  choice?: { field: string; label: string; ways: [string, string][] };
  /** What a new one is like. */
  usual: { height: number; material: Row["material"] };
}

export const itemKinds: ItemKind[] = [
  {
    kind: "box",
    words: "Box",
    many: "Boxes",
    lengths: [
      ["along", "Along the line"],
      ["across", "Across it"],
      ["height", "Height"],
    ],
    usual: { height: 1100, material: "softwood" },
  },
  {
    kind: "round",
    words: "Round post",
    many: "Round posts",
    lengths: [
      ["diameter", "Diameter"],
      ["height", "Height"],
    ],
    usual: { height: 900, material: "steel" },
  },
  {
    kind: "post",
    words: "Post with a cap",
    many: "Posts",
    lengths: [
      ["along", "Along the line"],
      ["across", "Across it"],
      ["height", "Height below the cap"],
      ["cap_height", "Height of the cap"],
      ["over", "Cap stands over by"],
    ],
    choice: {
      field: "cap",
      label: "Cap",
      ways: [
        ["flat", "Flat"],
        ["pyramid", "Pyramid"],
        ["ball", "Ball"],
      ],
    },
    usual: { height: 1100, material: "softwood" },
  },
  {
    kind: "baluster",
    words: "Turned baluster",
    many: "Balusters",
    lengths: [
      ["width", "Width of the blocks"],
      ["waist", "Diameter of the waist"],
      ["height", "Height"],
      ["foot", "Block at the foot"],
      ["head", "Block at the head"],
    ],
    usual: { height: 900, material: "oak" },
  },
  {
    kind: "turned",
    words: "Turned from a section",
    many: "Turned items",
    lengths: [["height", "Height"]],
    usual: { height: 900, material: "oak" },
  },
  {
    kind: "bollard",
    words: "Bollard",
    many: "Bollards",
    lengths: [
      ["diameter", "Diameter"],
      ["height", "Height"],
      ["dome", "Height of the dome"],
    ],
    usual: { height: 950, material: "steel" },
  },
  {
    kind: "bracket",
    words: "Bracket",
    many: "Brackets",
    lengths: [
      ["along", "Width"],
      ["across", "Length of the arm"],
      ["height", "Height"],
      ["thickness", "Thickness"],
    ],
    usual: { height: 200, material: "steel" },
  },
  {
    kind: "lamp",
    words: "Lamp on a hanger",
    many: "Lamps",
    lengths: [
      ["diameter", "Diameter"],
      ["height", "Height of the shade"],
      ["hanger", "Hangs by"],
    ],
    usual: { height: 220, material: "brass" },
  },
  {
    kind: "panel",
    words: "Panel",
    many: "Panels",
    lengths: [
      ["width", "Along the line"],
      ["height", "Height"],
      ["thickness", "Thickness"],
    ],
    choice: {
      field: "filling",
      label: "Filling",
      ways: [
        ["boards", "Boards"],
        ["mesh", "Mesh"],
        ["glass", "Glass"],
      ],
    },
    usual: { height: 1000, material: "softwood" },
  },
  {
    kind: "planter",
    words: "Planter",
    many: "Planters",
    lengths: [
      ["along", "Along the line"],
      ["across", "Across it"],
      ["height", "Height"],
      ["batter", "Foot is in by"],
    ],
    usual: { height: 450, material: "stone" },
  },
  {
    kind: "tree",
    words: "Tree or shrub",
    many: "Trees",
    lengths: [
      ["diameter", "Diameter of the crown"],
      ["height", "Height"],
      ["stem", "Clear stem"],
      ["trunk", "Diameter of the trunk"],
    ],
    usual: { height: 4500, material: "foliage" },
  },
  {
    kind: "brought",
    words: "Brought in from a file",
    many: "Items",
    lengths: [["height", "Height"]],
    usual: { height: 1000, material: "painted" },
  },
  {
    kind: "typical",
    words: "A typical of this job",
    many: "Typicals",
    lengths: [
      ["along", "Room along the line"],
      ["across", "Room across it"],
      ["height", "Height"],
    ],
    usual: { height: 2600, material: "softwood" },
  },
];

/** By how much an item can be turned on its foot, degrees clockwise. */
export const quarters: [string, string][] = [
  ["0", "0°"],
  ["90", "90° clockwise"],
  ["180", "180°"],
  ["270", "90° anticlockwise"],
];

export function itemKindOf(kind: Kind): ItemKind {
  const found = itemKinds.find((one) => one.kind === kind);
  if (!found) throw new Error(`there is no item ${kind}`);
  return found;
}

/** What is chosen from; typicals only where the job has any. */
export const itemWays = (typicals: boolean) =>
  itemKinds.filter((one) => typicals || one.kind !== "typical").map((one): [Kind, string] => [one.kind, one.words]);

/** What has to be said of an item of a kind, besides its height, when it is chosen. */
export function saidOf(kind: Kind, typicals: readonly { id: string; name: string }[]): Record<string, unknown> {
  const first = typicals[0];
  return kind === "typical" && first ? { of: first.id, called: first.name } : {};
}
