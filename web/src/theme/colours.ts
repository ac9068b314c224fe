import { batlow, batlowS, broc, lapaz, vik } from "./colourTables";

/** A colour map by name, or the one that fits the measure. */
export type MapName = "auto" | "batlow" | "vik" | "lapaz" | "broc";

const tables: Record<Exclude<MapName, "auto">, number[]> = { batlow, vik, lapaz, broc };

export const stone = "#B4ADA0";

export const mapLabels: Record<MapName, string> = {
  auto: "by the measure",
  batlow: "batlow",
  vik: "vik, middle at zero",
  lapaz: "lapaz",
  broc: "broc, middle at zero",
};

export const chooseMap = (map: MapName, signed: boolean): Exclude<MapName, "auto"> =>
  map !== "auto" ? map : signed ? "vik" : "batlow";

export const isDiverging = (map: Exclude<MapName, "auto">) => map === "vik" || map === "broc";

/** RGBA bytes of a map, 256 colours, for a texture. */
export function tableBytes(map: Exclude<MapName, "auto">): Uint8Array {
  const table = tables[map];
  const bytes = new Uint8Array(1024);
  for (let i = 0; i < 256; i++) {
    bytes[4 * i] = table[3 * i]!;
    bytes[4 * i + 1] = table[3 * i + 1]!;
    bytes[4 * i + 2] = table[3 * i + 2]!;
    bytes[4 * i + 3] = 255;
  }
  return bytes;
}

/** The colour of a name, by its number among the colours of names. */
export function nameColour(colour: number): [number, number, number] {
  const i = 3 * (colour % (batlowS.length / 3));
  return [batlowS[i]!, batlowS[i + 1]!, batlowS[i + 2]!];
}

/** RGBA bytes of a key of names: as many equal stretches as names. */
export function nameBytes(colours: number[]): Uint8Array {
  const bytes = new Uint8Array(1024);
  for (let i = 0; i < 256; i++) {
    const name = Math.round((i * (colours.length - 1)) / 255);
    bytes.set([...nameColour(colours[name] ?? 0), 255], 4 * i);
  }
  return bytes;
}

/** The colour at a place 0..1 along a map, as the picture draws it with so many bands (0: continuous). */
export function colourAt(map: Exclude<MapName, "auto">, share: number, bands: number): string {
  const table = tables[map];
  let t = Math.min(1, Math.max(0, share));
  if (bands > 0) t = bands === 1 ? 0.5 : Math.min(Math.floor(t * bands), bands - 1) / (bands - 1);
  const i = 3 * Math.round(255 * t);
  return `rgb(${table[i]},${table[i + 1]},${table[i + 2]})`;
}
