import { describe, expect, it } from "vitest";
import { thin, within } from "../src/plots/thin";

/** The largest distance of any left-out point from the line drawn instead, in pixels. */
function worst(x: number[], y: number[], kept: number[], unitX: number, unitY: number): number {
  let most = 0;
  for (let k = 1; k < kept.length; k++) {
    const [a, b] = [kept[k - 1]!, kept[k]!];
    const [ax, ay] = [x[a]! / unitX, y[a]! / unitY];
    const [dx, dy] = [x[b]! / unitX - ax, y[b]! / unitY - ay];
    const length2 = dx * dx + dy * dy;
    for (let i = a + 1; i < b; i++) {
      const [px, py] = [x[i]! / unitX - ax, y[i]! / unitY - ay];
      const t = length2 ? Math.min(1, Math.max(0, (px * dx + py * dy) / length2)) : 0;
      most = Math.max(most, Math.hypot(px - t * dx, py - t * dy));
    }
  }
  return most;
}

const loop = (count: number, cycles: number) => {
  const t = Array.from({ length: count }, (_, i) => (2 * Math.PI * cycles * i) / (count - 1));
  return { x: t.map((a) => Math.sin(a) * (1 + a / 900)), y: t.map((a) => Math.cos(a + 0.4)) };
};

describe("a line is thinned to what can be seen", () => {
  it("draws a loop of 100,000 points with far fewer, no point off by a pixel", () => {
    const { x, y } = loop(100_000, 100);
    const kept = thin(x, y, 3 / 900, 2 / 300);
    expect(kept.length).toBeLessThan(12_000);
    expect(worst(x, y, kept, 3 / 900, 2 / 300)).toBeLessThan(1);
    expect(kept[0]).toBe(0);
    expect(kept.at(-1)).toBe(99_999);
  });
  it("keeps where a straight line turns back", () => {
    const x = [0, 1, 2, 3, 2, 1, 0, 1, 2];
    const kept = thin(x, x, 0.01, 0.01);
    expect(kept).toEqual([0, 3, 6, 8]);
  });
  it("keeps gaps", () => {
    const x = [0, 1, 2, null, 4, 5, 6];
    expect(thin(x, [0, 1, 2, 3, 4, 5, 6], 0.01, 0.01)).toEqual([0, 2, 3, 4, 6]);
    expect(thin([null, null], [1, 2], 1, 1)).toEqual([]);
  });
  it("draws a straight line with its ends alone", () => {
    const x = Array.from({ length: 5000 }, (_, i) => i);
    expect(
      thin(
        x,
        x.map((v) => 3 * v + 1),
        5,
        9,
      ),
    ).toEqual([0, 4999]);
  });
  it("draws what stands still once", () => {
    expect(thin(Array(50).fill(1), Array(50).fill(2), 1, 1)).toEqual([0, 49]);
  });
  it("shows more when one looks closer", () => {
    const { x, y } = loop(20_000, 3);
    expect(thin(x, y, 1e-5, 1e-5).length).toBeGreaterThan(2 * thin(x, y, 3e-3, 3e-3).length);
  });
  it("cuts runs outside the window to their ends, and loses nothing inside", () => {
    const { x, y } = loop(1000, 2);
    const window = { x: [0, 0.5] as [number, number], y: [0, 0.5] as [number, number] };
    const kept = new Set(within(x, y, window));
    x.forEach((u, i) => {
      if (u >= 0 && u <= 0.5 && y[i]! >= 0 && y[i]! <= 0.5) expect(kept.has(i)).toBe(true);
    });
    expect(kept.size).toBeLessThan(500);
  });
});
