import { describe, expect, test } from "vitest";
import { shapeScale, swingOf } from "../src/bench/store";
import { atPhase, cycleOf, phases, wholeDegrees } from "../src/lines/phases";
import { bench } from "./state";

describe("what has a cycle is played through its phase", () => {
  const field = (harmonic: boolean) => ({ name: "stress", harmonic });
  const contents = (kind: string, harmonic: boolean, moves = true) =>
    ({ fields: [field(harmonic)], steps: [{ kind }], moves }) as never;

  test("a harmonic is read at a phase, a mode is drawn at one, all else has none", () => {
    const state = bench({ step: 0 });
    expect(cycleOf(contents("frequency", true), state)).toBe("harmonic");
    expect(cycleOf(contents("mode", false), state)).toBe("mode");
    expect(cycleOf(contents("mode", false, false), state)).toBeNull();
    expect(cycleOf(contents("time", false), state)).toBeNull();
    expect(cycleOf(undefined, state)).toBeNull();
  });

  test("a film of a cycle ends one picture before it begins again", () => {
    expect(phases[0]).toBe(0);
    expect(wholeDegrees(phases.at(-1)! + (phases[1]! - phases[0]!))).toBe(0);
    expect([-90, 360, 725.4].map(wholeDegrees)).toEqual([270, 0, 5]);
  });

  test("a mode leans to the other side half a cycle on, and another mode begins at its largest", () => {
    const state = bench({ step: 2, exaggeration: 10 });
    const turned = { ...state, ...atPhase(state, "mode", 180) };
    expect(shapeScale(state)).toBe(10);
    expect(shapeScale(turned)).toBeCloseTo(-10);
    expect(swingOf(turned)).toBe(180);
    expect(shapeScale({ ...turned, step: 3 })).toBe(10);
    expect(shapeScale({ ...turned, result: 99 })).toBe(10);
    expect(atPhase(state, "harmonic", -15)).toEqual({ reading: { ...state.reading, phase: "345" } });
  });
});
