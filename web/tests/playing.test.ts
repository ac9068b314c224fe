import { describe, expect, test } from "vitest";
import { nextStep, playedSteps } from "../src/bench/playing";
import { freshPlaying, type Playing } from "../src/bench/store";

const play = (change: Partial<Playing>): Playing => ({ ...freshPlaying, ...change });

describe("the steps of a film, once through", () => {
  test.each([
    [{}, [0, 1, 2, 3, 4, 5]],
    [{ stride: 2 }, [0, 2, 4]],
    [{ from: 1, to: 4, stride: 3 }, [1, 4]],
    [{ way: "back" as const, from: 2 }, [5, 4, 3, 2]],
    [{ way: "both" as const, to: 3 }, [0, 1, 2, 3, 2, 1]],
    [{ from: 9, to: 99 }, [5]],
    [{ from: -3, to: 1 }, [0, 1]],
    [{ only: { steps: [1, 2, 5], words: "" } }, [1, 2, 5]],
    [{ only: { steps: [1, 2, 5], words: "" }, way: "back" as const, to: 4 }, [2, 1]],
    [{ only: { steps: [], words: "" } }, [0]],
  ])("%o of six", (change, steps) => {
    expect(playedSteps(play(change), 6)).toEqual(steps);
  });

  test("one step is one picture, whatever the way", () => {
    for (const way of ["on", "back", "both"] as const) expect(playedSteps(play({ way }), 1)).toEqual([0]);
  });
});

describe("playing on and on", () => {
  const follow = (p: Playing, start: number, count: number) => {
    let at = { step: start, way: (p.way === "back" ? -1 : 1) as 1 | -1 };
    return Array.from({ length: count }, () => {
      at = nextStep(p, 6, at.step, at.way);
      return at.step;
    });
  };

  test("starts again at the range's beginning", () => {
    expect(follow(play({ from: 1, to: 3 }), 2, 4)).toEqual([3, 1, 2, 3]);
  });

  test("backwards it starts again at the end", () => {
    expect(follow(play({ way: "back", from: 1, to: 3 }), 2, 4)).toEqual([1, 3, 2, 1]);
  });

  test("to and fro it turns at both ends and repeats none", () => {
    expect(follow(play({ way: "both", to: 4, stride: 2 }), 0, 8)).toEqual([2, 4, 2, 0, 2, 4, 2, 0]);
  });

  test("from outside the range it goes into it", () => {
    expect(follow(play({ from: 3, to: 5 }), 0, 2)).toEqual([3, 4]);
    expect(follow(play({ from: 0, to: 2 }), 5, 2)).toEqual([0, 1]);
  });
});
