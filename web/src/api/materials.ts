/** Materials and the colours of their faces and edges in drawings, made from those of the core. */
export const materials = {
  softwood: { face: "#dcbb85", edge: "#8d6b36" },
  oak: { face: "#b98c56", edge: "#6e4c22" },
  painted: { face: "#efe9da", edge: "#8e887a" },
  steel: { face: "#8b9599", edge: "#4a5357" },
  brass: { face: "#c9a24b", edge: "#7d5f1c" },
  stone: { face: "#cfcabd", edge: "#86806f" },
  aluminium: { face: "#c2c8ca", edge: "#747c80" },
  foliage: { face: "#9aa977", edge: "#5c6c41" },
} as const;
