import { describe, expect, test } from "vitest";
import { digitsBetween, figure, parse, percent, roundUp } from "../src/reading/format";

const thin = "\u202f";
const minus = "\u2212";

describe("numbers as an analyst reads them", () => {
  test.each([
    [0, "0"],
    [483.26, "483.3"],
    [-2.5, `${minus}2.500`],
    [9042, "9042"],
    [12345.6, `12${thin}346`],
    [0.00056, "0.0005600"],
    [1.5e-7, "150.0e\u22129"],
    [-2.34e8, `${minus}234.0e6`],
  ])("%d is written %s", (value, text) => {
    expect(figure(value)).toBe(text);
  });

  test("values that differ by little are written with the digits that differ", () => {
    const [low, high] = [293.15, 293.1501];
    const digits = digitsBetween(low, high);
    expect([low, high].map((v) => figure(v, digits))).toEqual(["293.150000", "293.150100"]);
    expect(digitsBetween(0, 483.26)).toBe(4);
    expect(digitsBetween(-3, 5)).toBe(4);
    expect(digitsBetween(7, 7)).toBe(4);
    expect(digitsBetween(null, 7)).toBe(4);
  });

  test("a missing value is said, never a zero", () => {
    for (const nothing of [null, undefined, Number.NaN, Number.POSITIVE_INFINITY])
      expect(figure(nothing)).toBe("no value");
    expect(percent(null)).toBe("no value");
  });

  test("a share is answer in per cent", () => {
    expect(percent(0.0627, 2)).toBe(`6.3${thin}%`);
  });

  test("what is written is read back", () => {
    for (const value of [0, 1.25, -0.031, 7.5, 1200, 43210]) expect(parse(figure(value, 6))).toBeCloseTo(value, 6);
  });
});

describe("numbers as an analyst types them", () => {
  test.each([
    ["1,5", 1.5],
    [` ${minus}3 `, -3],
    [`12${thin}000`, 12000],
    ["2e-3", 0.002],
  ])("%s is %d", (text, value) => {
    expect(parse(text)).toBe(value);
  });

  test.each(["", "  ", "abc", "1.2.3", "--4"])("'%s' is no number", (text) => {
    expect(parse(text)).toBeNull();
  });
});

describe("round numbers", () => {
  test.each([
    [0.7, 0.8],
    [1, 1],
    [37, 40],
    [101, 120],
    [0.0021, 0.0025],
  ])("at or above %d comes %d", (value, round) => {
    expect(roundUp(value)).toBeCloseTo(round, 10);
  });

  test("of nothing it is nothing", () => {
    expect(roundUp(0)).toBe(0);
    expect(roundUp(-4)).toBe(0);
  });
});
