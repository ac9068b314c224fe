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

/** Where the colours break, of what fails at a limit and whose map is not chosen; null where they do not. */
export const breakOf = (map: MapName, limit: number | null | undefined): number | null =>
  map === "auto" && limit != null ? limit : null;

type Colour = [number, number, number];
// Calm below the limit and iron above it: pale to deep within each, so that both read without their hue.
const calm: [Colour, Colour] = [
  [238, 234, 222],
  [104, 150, 150],
];
const iron: [Colour, Colour] = [
  [214, 140, 98],
  [112, 26, 16],
];
const between = ([a, b]: [Colour, Colour], t: number): Colour =>
  [0, 1, 2].map((i) => Math.round(a[i]! + t * (b[i]! - a[i]!))) as Colour;

/** RGBA bytes of the two parts: the first half of the table below the limit, the second above. */
export function brokenBytes(): Uint8Array {
  const bytes = new Uint8Array(1024);
  for (let i = 0; i < 256; i++)
    bytes.set([...(i < 128 ? between(calm, i / 127) : between(iron, (i - 128) / 127)), 255], 4 * i);
  return bytes;
}

/** A stretch of the key: from and to as shares of its height, and its colour. */
export interface Piece {
  from: number;
  to: number;
  colour: string;
}

/** How many bands lie below and above a break at this share of the scale: one at least where there is any room. */
function bandsAbout(share: number, bands: number): [number, number] {
  const count = (part: number) => (part <= 0 ? 0 : Math.max(1, Math.round(bands * part)));
  return [count(share), count(1 - share)];
}

/** How far up the scale a value stands, 0 to 1; ``log`` where the scale is logarithmic. */
export const shareOf = (value: number, [low, high]: [number, number], log: boolean): number =>
  log && low > 0 ? Math.log(Math.max(value, 1e-300) / low) / Math.log(high / low) : (value - low) / (high - low);

/** The stretches of a key as the picture draws it. limit: where the colours break, as a value. */
export function keyPieces(
  map: Exclude<MapName, "auto">,
  limits: [number, number],
  bands: number,
  limit: number | null,
  log = false,
): Piece[] {
  const count = bands > 0 ? bands : 64;
  if (limit === null)
    return Array.from({ length: count }, (_, i) => ({
      from: i / count,
      to: (i + 1) / count,
      colour: colourAt(map, (i + 0.5) / count, bands),
    }));
  const share = Math.min(1, Math.max(0, shareOf(limit, limits, log)));
  const [below, above] = bandsAbout(share, count);
  const part = (n: number, from: number, to: number, colours: [Colour, Colour]) =>
    Array.from({ length: n }, (_, i) => ({
      from: from + ((to - from) * i) / n,
      to: from + ((to - from) * (i + 1)) / n,
      colour: `rgb(${between(colours, (i + 0.5) / n).join(",")})`,
    }));
  return [...part(below, 0, share, calm), ...part(above, share, 1, iron)];
}

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
