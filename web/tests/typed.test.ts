import { describe, expect, test } from "vitest";
import { parsePoint, placeFrom, whyNoPoint } from "../src/reading/typed";

describe("points as they are typed", () => {
  test.each([
    ["20 0 0", [20, 0, 0]],
    ["20, 0, 0", [20, 0, 0]],
    ["20,0,0", [20, 0, 0]],
    ["20;0;0", [20, 0, 0]],
    ["20 ; 0 ; 0", [20, 0, 0]],
    ["  1, 0, 2.5  ", [1, 0, 2.5]],
    ["1; 0; 2,5", [1, 0, 2.5]],
    ["1,5 0 2,5", [1.5, 0, 2.5]],
    ["1,5, 0,25, 3", [1.5, 0.25, 3]],
    ["-1e3\t\u22122 0.5", [-1000, -2, 0.5]],
    ["12\u202f000 0 0", [12000, 0, 0]],
    ["0,125 0 1", [0.125, 0, 1]],
  ])("'%s' is a point", (text, point) => {
    expect(parsePoint(text)).toEqual(point);
  });

  test.each([
    "2 0, 0, 0",
    "2 0; 0; 0",
    "1, 2",
    "1 2 3 4",
    "1, 2, 3, 4",
    "a, b, c",
    "",
    "1,,2",
    "1,000, 2, 3",
    "1;2",
    "NaN 0 0",
    "Infinity 0 0",
  ])("'%s' is no point", (text) => {
    expect(parsePoint(text)).toBeNull();
  });

  test("what is no point is told by what it is", () => {
    expect(whyNoPoint("1, 2")).toContain("2 numbers, not three");
    expect(whyNoPoint("a b c")).toContain("cannot be read");
  });
});

describe("places as they are typed", () => {
  test.each([
    ["20 0 0", "point:20,0,0"],
    ["point:20 0 0", "point:20,0,0"],
    ["point: 1,5; 0; 2", "point:1.5,0,2"],
    ["point 20 0 0", "point:20,0,0"],
    ["node 12", "node:12"],
    ["node: 12", "node:12"],
    ["set:held", "set:held"],
    ["held", "set:held"],
    ["pin face", "set:pin face"],
    ["gauss:1:2", "gauss:1:2"],
  ])("'%s' is %s", (text, place) => {
    expect(placeFrom(text, ["held", "pin face"])).toBe(place);
  });

  test.each(["12", "point:2 0, 0, 0", "elsewhere", ""])("'%s' is left for the engine to refuse", (text) => {
    expect(placeFrom(text, ["held"])).toBe(text);
  });
});
