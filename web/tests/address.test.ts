import { describe, expect, test } from "vitest";
import {
  benchAddress,
  fromAddress,
  inThisReview,
  lookFrom,
  openAddress,
  toAddress,
  viewAddress,
} from "../src/bench/address";
import { type BenchState, freshArrows, freshKey, freshLook, freshReading, panes } from "../src/bench/store";
import addresses from "./addresses.json";
import { bench } from "./state";

const there = (state: BenchState) => fromAddress(new URLSearchParams(toAddress(state).toString()));

describe("the address holds where one is", () => {
  test("a plain view is a short address", () => {
    expect(toAddress(bench()).toString()).toBe("bay=field&result=2&field=stress&measure=von-mises&step=0");
  });

  const changes: Partial<BenchState>[] = [
    { bay: "balance", step: 14, exaggeration: 20 },
    { reading: { ...freshReading("stress", "yy"), averaging: "part", order: "measure", axes: "eye", unit: "ksi" } },
    { reading: { ...freshReading("stress", "xx"), of: "jump", region: "part:lug & pin", fold: 35 } },
    { reading: { ...freshReading("stress", "xx"), over: "largest", span: "so-far", when: true } },
    { reading: { ...freshReading("stress", "plane-normal"), plane: "0,0.6,0.8", weight: "volume", against: "step=0" } },
    { key: { ...freshKey, low: -3.5, high: 120, fit: "set", bands: 24, map: "vik", iso: "alone", weigh: "volume" } },
    { key: { ...freshKey, bands: 0, log: true, fit: "all", iso: "over" } },
    { look: { ...freshLook, hidden: [0, 3], translucent: [2], detail: 8, style: "inside", perspective: true } },
    { look: { ...freshLook, nodes: true, apart: true, solid: true, mirrored: false }, meshLines: false },
    {
      arrows: { ...freshArrows("snow load"), length: 0.2, full: true, at: "outside", split: true, by: "set" },
      labelled: false,
      undeformed: false,
    },
    { bay: "path", paths: [3, 5], gauges: 7, along: true, drawers: { path: "gauges" } },
    { bay: "path", paths: [] },
    { camera: { position: [1, -2.5, 3], target: [0, 0, 0.25], zoom: 4.125 } },
  ];

  test.each(changes.map((c) => [Object.keys(c).join(", "), c] as const))("%s come back", (_, change) => {
    const state = bench(change);
    const found = there(state);
    for (const name of Object.keys(change) as (keyof BenchState)[]) expect(found[name]).toEqual(state[name]);
  });

  test("what is written again is the same", () => {
    for (const change of changes) {
      const state = bench(change);
      expect(toAddress({ ...state, ...there(state) }).toString()).toBe(toAddress(state).toString());
    }
  });
});

describe("an address that was tampered with does no harm", () => {
  const read = (text: string) => fromAddress(new URLSearchParams(text));

  test("unknown words fall back to what is usual", () => {
    const found = read("bay=kitchen&field=stress&averaging=some&of=all&over=never&fold=999&map=rainbow&fit=none");
    expect(found.bay).toBeUndefined();
    expect(found.reading).toEqual({ ...freshReading("stress", ""), averaging: "off" });
    expect(found.key).toEqual(freshKey);
  });

  test.each([
    ["bands=-4", 0],
    ["bands=1e9", 64],
    ["bands=x", freshKey.bands],
    ["bands=7.4", 7],
  ])("%s is %d bands", (text, bands) => {
    expect(read(text).key?.bands).toBe(bands);
  });

  test("numbers that are none are left out", () => {
    const found = read("step=abc&shown=-2&low=&high=NaN&camera=1,2,3&arrows=reaction,0,0,full,tip&hidden=1,x,2,-3");
    expect(found.step).toBeUndefined();
    expect(found.exaggeration).toBe(1);
    expect(found.key?.low).toBeNull();
    expect(found.key?.high).toBeNull();
    expect(found.camera).toBeUndefined();
    expect(found.arrows).toBeNull();
    expect(found.look?.hidden).toEqual([1, 2]);
  });

  test("a reading over one step has no 'when'", () => {
    expect(read("field=stress&when=1").reading?.when).toBe(false);
  });
});

describe("a named view", () => {
  test("keeps camera and look, and no reading", () => {
    const state = bench({
      look: { ...freshLook, hidden: [1], style: "lines" },
      exaggeration: 5,
      camera: { position: [1, 2, 3], target: [0, 0, 0], zoom: 2 },
      step: 7,
    });
    const text = viewAddress(state);
    expect(text).not.toContain("field");
    expect(text).not.toContain("step");
    const found = lookFrom(new URLSearchParams(text));
    expect(found.look).toEqual(state.look);
    expect(found.exaggeration).toBe(5);
    expect(found.camera).toEqual(state.camera);
    expect(Object.keys(found).sort()).toEqual(["camera", "exaggeration", "look", "meshLines", "undeformed"]);
  });
});

test("an exhibit reopens in its own review whatever the file is called by now, and not in the list it stands in", () => {
  expect(inThisReview("/?review=old.ironstone&bay=exhibits&result=2&curve=7")).toBe("/?bay=field&result=2&curve=7");
  expect(inThisReview("/?bay=trace&result=2")).toBe("/?bay=trace&result=2");
});

describe("what the engine keeps of a view is what the page reads", () => {
  test.each(addresses)("%s", (address) => {
    panes.reset();
    openAddress(new URLSearchParams(address));
    const again = Object.fromEntries(benchAddress());
    expect(again).toEqual(Object.fromEntries(new URLSearchParams(address)));
  });
});
