import { beforeEach, describe, expect, test } from "vitest";
import { activePane, freshKey, freshLook, freshReading, panes } from "../src/bench/store";
import { bench } from "./state";

const now = () => activePane.getState();

beforeEach(() => panes.reset(bench()));

describe("what one word of the reading does to the others", () => {
  test("averaging ends a jump: a jump is of values as computed", () => {
    now().setReading({ of: "jump" });
    now().setReading({ averaging: "part" });
    expect(now().reading?.of).toBe("value");
  });

  test("a unit belongs to its measure", () => {
    now().setReading({ unit: "ksi" });
    now().setReading({ averaging: "part" });
    expect(now().reading?.unit).toBe("ksi");
    now().setReading({ measure: "triaxiality" });
    expect(now().reading?.unit).toBeNull();
    now().setReading({ measure: "xx", unit: "GPa" });
    expect(now().reading?.unit).toBe("GPa");
  });

  test("at one step there is no 'at which step'", () => {
    now().setReading({ over: "largest", when: true });
    now().setReading({ over: "step" });
    expect(now().reading?.when).toBe(false);
  });

  test("limits stay over an averaging, so that two can be compared, and go with another measure", () => {
    now().setKey({ low: 10, high: 90, fit: "set", log: true, bands: 5 });
    now().setReading({ averaging: "all" });
    expect(now().key).toMatchObject({ low: 10, high: 90, fit: "set" });
    now().setReading({ measure: "xx" });
    expect(now().key).toEqual({ ...freshKey, bands: 5 });
  });

  test("without a reading there is nothing to change", () => {
    activePane.setState({ reading: null });
    now().setReading({ averaging: "all" });
    expect(now().reading).toBeNull();
  });
});

test("another result comes with nothing of the one before", () => {
  activePane.setState({
    look: { ...freshLook, hidden: [1] },
    arrows: { field: "reaction", length: 0.1, spacing: 0.1, full: false, at: "tail", split: false, by: "node" },
    camera: { position: [1, 2, 3], target: [0, 0, 0], zoom: 1 },
    measuring: { nodes: [1, 2], face: 3, fold: 20, element: null },
    play: { from: 3, to: 9, stride: 2, way: "both", only: null, through: "steps" },
    pairing: 4,
  });
  now().open(7);
  expect(now()).toMatchObject({ result: 7, reading: null, camera: null, arrows: null, pairing: null, look: freshLook });
  expect(now().measuring.nodes).toEqual([]);
  expect(now().play.to).toBeNull();
});

test("a look changes by what is named", () => {
  now().setLook({ perspective: true });
  now().setLook({ hidden: [2] });
  expect(now().look).toEqual({ ...freshLook, perspective: true, hidden: [2] });
  expect(now().reading).toEqual(freshReading("stress", "von-mises"));
});

describe("the plot that goes with a drawer", () => {
  test("comes up with its bay and with its tab, and the one before stands where it has nothing to show", () => {
    now().set({ tab: "balance" });
    now().set({ bay: "path" });
    expect(now()).toMatchObject({ tab: "profile", instead: "balance" });
    now().set({ drawers: { path: "gauges" } });
    expect(now()).toMatchObject({ tab: "gauges", instead: "profile" });
    now().set({ bay: "field" });
    expect(now().tab).toBe("gauges");
  });

  test("gives way to one that is asked for, and stays away once another was chosen", () => {
    now().set({ bay: "strength", tab: "tested" });
    expect(now().tab).toBe("tested");
    now().set({ tab: "loop" });
    now().set({ bay: "strength" });
    expect(now().tab).toBe("loop");
  });
});
