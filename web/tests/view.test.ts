import * as THREE from "three";
import { describe, expect, test } from "vitest";
import { type ArrowChoice, freshArrows } from "../src/bench/store";
import { ArrowDrawing } from "../src/view/arrows";
import { ModelGeometry } from "../src/view/scene";
import { arrows, box } from "./model";

describe("the geometry of a result", () => {
  test("faces seen through are drawn apart from the others", () => {
    const geometry = new ModelGeometry(box(1, 1, 1, 2));
    expect(geometry.surface.getIndex()?.count).toBe(4 * 6);
    expect(geometry.translucent.getIndex()?.count).toBe(2 * 6);
    const solid = new ModelGeometry(box(1, 1, 1));
    expect(solid.translucent.getIndex()?.count).toBe(0);
  });

  test("a missing value is marked and never drawn as a zero", () => {
    const geometry = new ModelGeometry(box(1, 1, 1));
    const values = new Float32Array(geometry.count).fill(7);
    values[3] = Number.NaN;
    geometry.setValues(values);
    expect(geometry.valueAt(2)).toBe(7);
    expect(geometry.valueAt(3)).toBeNull();
    expect(geometry.surface.getAttribute("valid").array[3]).toBe(0);
  });

  test("values and displacements of another surface are not taken", () => {
    const geometry = new ModelGeometry(box(1, 1, 1));
    geometry.setValues(new Float32Array(geometry.count).fill(2));
    geometry.setValues(new Float32Array(5).fill(9));
    expect(geometry.valueAt(0)).toBe(2);
    geometry.setDisplacement(new Float32Array(7).fill(1));
    geometry.eachPoint(10, 1, (i, x) => i === 0 && expect(x).toBe(0));
  });

  test("a point is where it is drawn: moved by the exaggerated displacement", () => {
    const geometry = new ModelGeometry(box(2, 1, 1));
    geometry.setDisplacement(new Float32Array(3 * geometry.count).fill(0.25));
    const seen: number[] = [];
    geometry.eachPoint(4, 1, (_, x) => seen.push(x));
    expect(Math.min(...seen)).toBe(1);
    expect(Math.max(...seen)).toBe(3);
  });
});

const choice = (change: Partial<ArrowChoice> = {}): ArrowChoice => ({
  ...freshArrows("force"),
  length: 0.1,
  ...change,
});

/** Ends of the strokes of thin arrows, pair after pair. */
function strokes(drawing: ArrowDrawing): THREE.Vector3[] {
  const position = (drawing.group.children[0] as THREE.LineSegments).geometry.getAttribute("position");
  return Array.from({ length: position.count }, (_, i) => new THREE.Vector3().fromBufferAttribute(position, i));
}

describe("arrows of a vector", () => {
  const packed = arrows(
    "vector",
    [
      [1, 0, 0],
      [2, 0, 0],
    ],
    [
      [0, 0, 4],
      [0, 0, -1],
    ],
  ); // prettier-ignore

  test("the longest has the length asked for, the others their share", () => {
    const ends = strokes(new ArrowDrawing(packed, choice(), 20, 1));
    expect(ends[0]!.toArray()).toEqual([1, 0, 0]);
    expect(ends[1]!.distanceTo(ends[0]!)).toBeCloseTo(2, 5);
    expect(ends[3]!.z).toBeCloseTo(-0.5, 5);
  });

  test("with the tip at the point the arrow comes to it", () => {
    const ends = strokes(new ArrowDrawing(packed, choice({ at: "tip" }), 20, 1));
    expect(ends[1]!.toArray()).toEqual([1, 0, 0]);
    expect(ends[0]!.z).toBeCloseTo(-2, 5);
  });

  test("outside the body a push comes to its point and a pull leaves it", () => {
    const outward = { ...packed, floats: { ...packed.floats, outward: new Float32Array([0, 0, 1, 0, 0, 1]) } };
    const ends = strokes(new ArrowDrawing(outward, choice({ at: "outside" }), 20, 1));
    expect([ends[0]!.z, ends[1]!.z]).toEqual([0, 2]);
    expect(ends[2]!.z).toBeCloseTo(0.5, 5);
    expect(ends[3]!.z).toBe(0);
  });

  test("each direction has an arrow of its own where that is asked for", () => {
    const slanted = arrows("vector", [[1, 0, 0]], [[3, 0, -4]]);
    const ends = strokes(new ArrowDrawing(slanted, choice({ split: true }), 20, 1));
    expect(ends[1]!.toArray().map((v) => Math.round(1e4 * v) / 1e4)).toEqual([2.2, 0, 0]);
    expect(ends[3]!.toArray().map((v) => Math.round(1e4 * v) / 1e4)).toEqual([1, 0, -1.6]);
  });

  test("they stand on the shape as drawn", () => {
    const moved = arrows("vector", [[1, 0, 0]], [[0, 0, 1]], undefined, [[0.5, 0, 0]]);
    expect(strokes(new ArrowDrawing(moved, choice(), 20, 3))[0]!.x).toBeCloseTo(2.5, 5);
  });

  test("full ones have a rod and a cone each", () => {
    const group = new ArrowDrawing(packed, choice({ full: true }), 20, 1).group;
    const bodies = group.children as THREE.InstancedMesh[];
    expect(bodies.map((b) => b.count)).toEqual([2, 2]);
  });

  test("of nothing, nothing is drawn", () => {
    expect(new ArrowDrawing(arrows("vector", [], []), choice(), 20, 1).group.children).toHaveLength(0);
    expect(new ArrowDrawing(arrows("vector", [[0, 0, 0]], [[0, 0, 0]]), choice(), 20, 1).group.children).toHaveLength(
      0,
    );
  });
});

describe("crosses of principal directions", () => {
  const axes = [[1, 0, 0, 0, 1, 0, 0, 0, 1]];
  /** Where the four barbs of a tip end, seen from the tip: along the line, outwards positive. */
  const barbs = (value: number) => {
    const ends = strokes(new ArrowDrawing(arrows("cross", [[0, 0, 0]], [[value, 0, 0]], axes), choice(), 20, 1));
    // Two half lines, then two tips of four barbs.
    return ends.slice(4).flatMap((tip, i, all) => (i % 2 === 0 ? [{ tip, end: all[i + 1]! }] : []));
  };

  test("tension points outwards, compression inwards: no colour is needed", () => {
    for (const { tip, end } of barbs(5)) expect(Math.abs(end.x)).toBeLessThan(Math.abs(tip.x));
    for (const { tip, end } of barbs(-5)) expect(Math.abs(end.x)).toBeGreaterThan(Math.abs(tip.x));
    expect(barbs(5)).toHaveLength(8);
  });

  test("each line is as long as its value is large, through the point", () => {
    const ends = strokes(new ArrowDrawing(arrows("cross", [[0, 0, 0]], [[4, 0, -2]], axes), choice(), 20, 1));
    const lines = ends.slice(0, 8);
    const reach = (axis: "x" | "y" | "z") => Math.max(...lines.map((p) => Math.abs(p[axis])));
    expect(reach("x")).toBeCloseTo(1, 5);
    expect(reach("z")).toBeCloseTo(0.5, 5);
    expect(reach("y")).toBeCloseTo(0, 9);
  });
});
