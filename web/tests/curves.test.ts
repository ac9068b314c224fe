import { describe, expect, test } from "vitest";
import type { Pairing, Schemas } from "../src/api/client";
import { energyPlot, historyPlot, loopPlot, memberPlot, namedPlot, residualPlot } from "../src/plots/curves";
import { figureOf } from "../src/plots/figure";

const axis = (label: string, unit: string, values: (number | null)[]) => ({ label, unit, values, sentence: label });
const cycle = (energy: number) => ({ energy }) as Schemas["CycleOut"];

const pairing = (cycles: number[] = []) =>
  ({
    x: axis("stroke", "mm", [0, 1, 2]),
    y: axis("force", "kN", [0, 5, null]),
    steps: axis("time", "s", [0, 0.1, 0.2]),
    loops: { cycles: cycles.map(cycle), envelope_x: [-1, 0, 1], envelope_y: [-4, 0, 5], energy_unit: "kN·mm" },
  }) as unknown as Pairing;

const record = { name: "F3", x: [0, 1], y: [0, 4] } as Schemas["OverlayOut"];

describe("the loop", () => {
  test("has the model on top, the record under it, and steps only on the model", () => {
    const { lines, xTitle, yTitle } = loopPlot(pairing([3]), record);
    expect(lines.map((l) => l.name)).toEqual(["F3", "envelope", "peaks and troughs", "force"]);
    expect(lines[2]!.marks).toEqual(["cycle 1, peak", "cycle 1, trough"]);
    expect(lines.map((l) => Boolean(l.steps))).toEqual([false, false, false, true]);
    expect([xTitle, yTitle]).toEqual(["stroke, mm", "force, kN"]);
  });

  test("shows how far several specimens scatter", () => {
    const names = loopPlot(pairing(), { ...record, low: [0, 3], high: [0, 5] }).lines.map((l) => l.name);
    expect(names).toEqual(["lowest of the specimens", "highest of the specimens", "F3", "force"]);
  });

  test("without a cycle has no envelope", () => {
    expect(loopPlot(pairing(), undefined).lines).toHaveLength(1);
  });
});

test("energies stand beside those of the test, cycle by cycle", () => {
  const metrics = [
    { name: "energy_total", test: 9 },
    { name: "energy_cycle_1", test: 2 },
    { name: "energy_cycle_2", test: 7 },
  ];
  const { lines, yTitle } = energyPlot(pairing([2.1, 7.3]), { metrics } as unknown as Schemas["MatchOut"]);
  expect(lines.map((l) => l.y)).toEqual([
    [2.1, 7.3],
    [2, 7],
  ]);
  expect(yTitle).toBe("energy of the cycle, kN·mm");
});

test("a history is over the steps", () => {
  const { lines, xTitle } = historyPlot(pairing(), "y");
  expect(lines[0]).toMatchObject({ x: [0, 0.1, 0.2], y: [0, 5, null], steps: true });
  expect(xTitle).toBe("time, s");
});

describe("curves by name", () => {
  const steps = { label: "load factor", unit: "", values: [0, 1, 2] };
  const curve = (name: string, unit: string, values: (number | null)[], error: string | null = null) =>
    ({ name, unit, values, error }) as Schemas["NamedOut"];

  test("of one unit are drawn in it", () => {
    const { lines, yTitle } = namedPlot([curve("a", "kN", [0, 1, 4]), curve("b", "kN", [0, -2, -8])], steps);
    expect(lines[1]!.y).toEqual([0, -2, -8]);
    expect(yTitle).toBe("a, b, kN");
  });

  test("of two units have an axis each, the second on the right and dashed", () => {
    const answer = namedPlot([curve("a", "kN", [0, 1, 4]), curve("u", "mm", [0, null, -8])], steps);
    expect(answer.lines.map((l) => l.y)).toEqual([
      [0, 1, 4],
      [0, null, -8],
    ]);
    expect(answer.lines.map((l) => [l.second, l.dash])).toEqual([
      [false, "solid"],
      [true, "dash"],
    ]);
    expect([answer.yTitle, answer.secondTitle]).toEqual(["a, kN", "u, mm (dashed)"]);
  });

  test("of more units each against its own largest, which is answer", () => {
    const { lines, yTitle, xTitle } = namedPlot(
      [curve("a", "kN", [0, 1, 4]), curve("u", "mm", [0, null, -8]), curve("t", "s", [0, 1, 2])],
      steps,
    );
    expect(lines.map((l) => l.y)).toEqual([
      [0, 0.25, 1],
      [0, null, -1],
      [0, 0.5, 1],
    ]);
    expect(lines.map((l) => l.name)).toEqual(["a, of 4 kN", "u, of 8 mm", "t, of 2 s"]);
    expect(yTitle).toContain("share");
    expect(xTitle).toBe("load factor, 1");
  });

  test("that cannot be worked out are left out", () => {
    expect(namedPlot([curve("a", "kN", [1]), curve("b", "", [], "no")], steps).lines).toHaveLength(1);
  });
});

test("model minus test stands between the lines of its root mean square", () => {
  const match = { deviation: { x: [0, 1, 3], away: [1, -2, 1], rms: 1.4, unit: "kN" } } as Schemas["MatchOut"];
  const { lines, xTitle, yTitle } = residualPlot(pairing(), match);
  expect(lines.map((l) => l.y)).toEqual([
    [1, -2, 1],
    [1.4, 1.4],
    [-1.4, -1.4],
  ]);
  expect(lines[1]!.x).toEqual([0, 3]);
  expect([xTitle, yTitle]).toEqual(["stroke, mm", "model minus test, kN"]);
});

test("along a member stand what is now and the largest so far", () => {
  const along = { distance: [0, 5], values: [1, 2], so_far: [-3, 2], distance_unit: "mm", unit: "MPa" };
  const { lines, xTitle, yTitle } = memberPlot(along as Schemas["AlongOut"], "axial stress");
  expect(lines.map((l) => l.name)).toEqual(["largest so far", "at this step"]);
  expect([xTitle, yTitle]).toEqual(["distance along the member, mm", "axial stress, MPa"]);
});

describe("what is handed to the plotting library", () => {
  const lines = [{ name: "force", x: [0, 1], y: [0, 2], colour: "#000", steps: true }];

  test("marks the step in view where it has a value", () => {
    const all = figureOf({ lines, xTitle: "x", yTitle: "y", here: { x: 1, y: 2 } }).data;
    expect(all).toHaveLength(2);
    expect(figureOf({ lines, xTitle: "x", yTitle: "y", here: { x: 1, y: null } }).data).toHaveLength(1);
  });

  const look = { logX: true, logY: false, window: null, size: { width: 900, height: 300 } };

  test("has logarithmic and second axes where they are asked for", () => {
    const { layout } = figureOf({ lines, xTitle: "x", yTitle: "y", secondTitle: "u" }, false, look);
    expect(layout.xaxis).toMatchObject({ type: "log", showspikes: true });
    expect(layout.yaxis).not.toHaveProperty("type");
    expect(layout).toHaveProperty("yaxis2.side", "right");
    expect(figureOf({ lines, xTitle: "x", yTitle: "y" }).layout).not.toHaveProperty("yaxis2");
  });

  test("of a long line is what can be seen, each point still its own step; closer in it is more", () => {
    const n = 100_000;
    const x = Array.from({ length: n }, (_, i) => Math.sin((60 * i) / n));
    const y = Array.from({ length: n }, (_, i) => Math.cos((60 * i) / n));
    const long = [{ name: "loop", x, y, colour: "#000", steps: true }];
    const drawn = (window: { x: [number, number]; y: [number, number] } | null) =>
      figureOf({ lines: long, xTitle: "x", yTitle: "y" }, false, { ...look, logX: false, window }).data[0] as {
        x: number[];
        customdata: number[];
      };
    const whole = drawn(null);
    expect(whole.x.length).toBeLessThan(n / 20);
    for (const [k, i] of whole.customdata.entries()) expect(whole.x[k]).toBe(x[i]);
    const inside = (d: typeof whole) => d.x.filter((v) => v > 0.999).length;
    expect(inside(drawn({ x: [0.999, 1], y: [-0.05, 0.05] }))).toBeGreaterThan(3 * inside(whole));
  });

  test("has a legend in a picture alone", () => {
    expect(figureOf({ lines, xTitle: "x", yTitle: "y" }).layout.showlegend).toBe(false);
    expect(figureOf({ lines, xTitle: "x", yTitle: "y" }, true).layout.showlegend).toBe(true);
  });
});
