import type { Packed } from "../src/api/binary";
import type { ArrowsHead, SurfaceHead } from "../src/api/queries";

/** A drawn box with one corner at the origin: six faces of two triangles each, no vertex shared; ``clear`` faces seen through. */
export function box(x: number, y: number, z: number, clear = 0): Packed<SurfaceHead> {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [x * (i & 1), y * ((i >> 1) & 1), z * ((i >> 2) & 1)]);
  const faces = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  const triangles = faces.flatMap((_, f) => [4 * f, 4 * f + 1, 4 * f + 2, 4 * f, 4 * f + 2, 4 * f + 3]);
  const edges = faces.flatMap((_, f) => [0, 1, 2, 3].flatMap((k) => [4 * f + k, 4 * f + ((k + 1) % 4)]));
  return {
    head: {
      origin: [0, 0, 0],
      centre: [x / 2, y / 2, z / 2],
      radius: Math.hypot(x, y, z) / 2,
      faces: 6,
      planar: false,
      opaque: 2 * (6 - clear),
    },
    floats: {
      positions: new Float32Array(faces.flatMap((f) => f.flatMap((c) => corners[c]!))),
      st: new Float32Array(faces.flatMap(() => [0, 0, 1, 0, 1, 1, 0, 1])),
    },
    whole: {
      face: new Uint32Array(faces.flatMap((_, f) => [f, f, f, f])),
      triangles: new Uint32Array(triangles),
      edges: new Uint32Array(edges),
      outline: new Uint32Array(edges),
      nodes: new Uint32Array([0, 1, 2, 3, 4, 5, 6, 7]),
    },
  };
}

/** Arrows as the service packs them. */
export function arrows(
  kind: "vector" | "cross",
  points: number[][],
  values: number[][],
  directions?: number[][],
  displacement?: number[][],
): Packed<ArrowsHead> {
  const sizes = values.map((v) => (kind === "vector" ? Math.hypot(...v) : Math.max(...v.map(Math.abs))));
  return {
    head: {
      origin: [0, 0, 0],
      kind,
      field: "force",
      unit: "N",
      longest: Math.max(...sizes),
      count: points.length,
      spacing: 0,
      asked_spacing: 0,
      at: "nodes",
      names: [],
    },
    floats: {
      points: new Float32Array(points.flat()),
      displacement: new Float32Array((displacement ?? points.map(() => [0, 0, 0])).flat()),
      values: new Float32Array(values.flat()),
      ...(directions ? { directions: new Float32Array(directions.flat()) } : {}),
    },
    whole: {},
  };
}
