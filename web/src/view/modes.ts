import type { Making, Picking } from "../bench/store";

/** What a click on the model does, where it does something else than plant a flag at a node. */
const modes: Partial<Record<Picking, string>> = {
  stack: "A click shows the stack of the element.",
  hide: "A click hides the part.",
  length: "A click adds a node to the length.",
  angle: "A click adds a node to the angle.",
  area: "A click picks the face, and what joins it smoothly.",
  volume: "A click picks the element.",
  path: "A click is a place of the line.",
  plane: "A click is a point of the plane.",
  gauge: "A click is a gauge.",
};

/** What the click that makes axes is for, by the direction that is then read. */
const axesModes: Record<Making["want"], string> = {
  radial: "Radial: click a face of the bore or pin.",
  hoop: "Hoop: click a face of the bore or pin.",
  axial: "Axial: click a face of the bore or pin.",
  normal: "Normal to a surface: click it.",
  "": "Click a flat face or one of a bore: axes are made from it.",
};

/** What the next click does, in words; nothing where it plants a flag. */
export function modeWords(picking: Picking, making: Making | null, picks: number): string | undefined {
  if (picking !== "axes") return modes[picking];
  if (making?.by === "nodes") return `Axes: click node ${Math.min(picks + 1, 3)} of 3.`;
  return axesModes[making?.want ?? ""];
}
