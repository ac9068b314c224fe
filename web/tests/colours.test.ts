import { describe, expect, it } from "vitest";
import { breakOf, brokenBytes, keyPieces } from "../src/theme/colours";

describe("the key broken at a limit", () => {
  it("has no band across the limit, and bands in either part as there is room", () => {
    const pieces = keyPieces("batlow", [0, 2], 9, 1);
    expect(pieces.some((p) => p.from < 0.5 && p.to > 0.5)).toBe(false);
    expect(pieces.filter((p) => p.to <= 0.5).length).toBeGreaterThan(3);
    expect(pieces[0]!.from).toBe(0);
    expect(pieces[pieces.length - 1]!.to).toBe(1);
  });
  it("is all calm where nothing fails and keeps a band of iron where hardly anything does", () => {
    expect(keyPieces("batlow", [0, 1], 9, 1).filter((p) => p.to > p.from).length).toBe(9);
    const little = keyPieces("batlow", [0, 1.01], 9, 1);
    expect(little[little.length - 1]!.from).toBeCloseTo(1 / 1.01);
  });
  it("breaks a logarithmic key where the limit stands on it", () => {
    const pieces = keyPieces("batlow", [0.01, 100], 8, 1, true);
    expect(pieces.filter((p) => p.to <= 0.5 + 1e-9).length).toBe(4);
    expect(pieces.length).toBe(8);
  });
  it("belongs to the map that is chosen by the measure, not to one the analyst chose", () => {
    expect(breakOf("auto", 1)).toBe(1);
    expect(breakOf("vik", 1)).toBe(null);
    expect(breakOf("auto", null)).toBe(null);
  });
  it("is darker above the limit than anywhere below, so that it reads without its hue", () => {
    const bytes = brokenBytes();
    const light = (i: number) => 0.3 * bytes[4 * i]! + 0.59 * bytes[4 * i + 1]! + 0.11 * bytes[4 * i + 2]!;
    expect(light(255)).toBeLessThan(light(127));
    expect(light(127)).toBeLessThan(light(0));
  });
});
