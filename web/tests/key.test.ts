import { describe, expect, test } from "vitest";
import { freshKey } from "../src/bench/store";
import { chooseMap, colourAt, nameBytes, nameColour, tableBytes } from "../src/theme/colours";
import { limitsOf } from "../src/view/limits";

describe("limits of the key", () => {
  const served = {
    plain: [0, 130],
    two_tones: [-130, 130],
    logarithmic: [9, 130],
  };

  test("are those of the scale that is chosen", () => {
    expect(limitsOf(freshKey, false, served)).toEqual([0, 130]);
    expect(limitsOf(freshKey, true, served)).toEqual([-130, 130]);
    expect(limitsOf({ ...freshKey, map: "lapaz" }, true, served)).toEqual([0, 130]);
    expect(limitsOf({ ...freshKey, log: true }, false, served)).toEqual([9, 130]);
    expect(limitsOf({ ...freshKey, log: true }, false, { ...served, logarithmic: null })).toEqual([0, 130]);
  });

  test("that were typed win over all", () => {
    expect(limitsOf({ ...freshKey, low: 10, high: 20 }, true, served)).toEqual([10, 20]);
    expect(limitsOf({ ...freshKey, low: 10 }, false, served)).toEqual([10, 130]);
  });

  test("never fall together", () => {
    const [low, high] = limitsOf(freshKey, false, { plain: [5, 5], two_tones: [5, 5], logarithmic: [5, 5] });
    expect(high).toBeGreaterThan(low);
  });
});

describe("colours", () => {
  test("a signed measure gets the map with a middle, unless another is chosen", () => {
    expect(chooseMap("auto", true)).toBe("vik");
    expect(chooseMap("auto", false)).toBe("batlow");
    expect(chooseMap("lapaz", true)).toBe("lapaz");
  });

  test("the ends of the map are the ends of the published table", () => {
    // Crameri, batlow: first and last row of the table.
    expect(colourAt("batlow", 0, 0)).toBe("rgb(1,25,89)");
    expect(colourAt("batlow", 1, 0)).toBe("rgb(250,204,250)");
    expect(colourAt("batlow", 7, 0)).toBe(colourAt("batlow", 1, 0));
  });

  test("in bands there are as many colours as bands, the ends among them", () => {
    const seen = new Set(Array.from({ length: 400 }, (_, i) => colourAt("batlow", i / 399, 9)));
    expect(seen.size).toBe(9);
    expect(seen).toContain("rgb(1,25,89)");
    expect(seen).toContain("rgb(250,204,250)");
    expect(colourAt("vik", 0.5, 1)).toBe(colourAt("vik", 0.2, 1));
  });

  test("the texture and the key have the same colours", () => {
    const bytes = tableBytes("vik");
    for (const share of [0, 0.25, 0.5, 1]) {
      const i = 4 * Math.round(255 * share);
      expect(`rgb(${bytes[i]},${bytes[i + 1]},${bytes[i + 2]})`).toBe(colourAt("vik", share, 0));
    }
  });

  test("names share the texture evenly and never mix", () => {
    const bytes = nameBytes([0, 4, 7]);
    const at = (i: number) => [bytes[4 * i], bytes[4 * i + 1], bytes[4 * i + 2]];
    expect(at(0)).toEqual(nameColour(0));
    expect(at(128)).toEqual(nameColour(4));
    expect(at(255)).toEqual(nameColour(7));
    const seen = new Set(Array.from({ length: 256 }, (_, i) => at(i).join()));
    expect(seen.size).toBe(3);
  });

  test("the first colours of names differ from one another", () => {
    const seen = new Set(Array.from({ length: 24 }, (_, i) => nameColour(i).join()));
    expect(seen.size).toBe(24);
    expect(nameColour(24)).toEqual(nameColour(0));
  });
});
