import { describe, expect, it } from "vitest";
import { kindOfFiles } from "../src/bench/dropped";
import { refusal } from "../src/controls/NumberField";
import { chosenAfter, groupsOf } from "../src/field/parts";

describe("groups of parts", () => {
  it("are three and more that differ in their last number only", () => {
    expect(groupsOf(["lug", "bolt 1", "bush", "bolt 2", "bolt_3", "pin 1", "pin 2"])).toEqual([
      0,
      { stem: "bolt", members: [1, 3, 4] },
      2,
      5,
      6,
    ]);
  });
  it("are none among names that are numbers alone", () => {
    expect(groupsOf(["1", "2", "3"])).toEqual([0, 1, 2]);
  });
  it("hold every part once, whatever the names", () => {
    const names = Array.from({ length: 200 }, (_, i) => (i % 7 ? `rib ${i}` : `skin.${i % 5}.${i}`));
    const all = groupsOf(names).flatMap((g) => (typeof g === "number" ? [g] : g.members));
    expect([...all].sort((a, b) => a - b)).toEqual(names.map((_, i) => i));
  });
});

describe("choosing rows", () => {
  const rows = [4, 2, 7, 1];
  const none = { shift: false, control: false };
  it("takes the row alone, and lets it go again", () => {
    expect(chosenAfter([2, 7], null, 4, rows, none)).toEqual([4]);
    expect(chosenAfter([4], 4, 4, rows, none)).toEqual([]);
  });
  it("adds and takes away with control, takes a run as it is listed with shift", () => {
    expect(chosenAfter([4], 4, 7, rows, { shift: false, control: true })).toEqual([4, 7]);
    expect(chosenAfter([4, 7], 7, 4, rows, { shift: false, control: true })).toEqual([7]);
    expect(chosenAfter([1], 1, 2, rows, { shift: true, control: false })).toEqual([2, 7, 1]);
    expect(chosenAfter([4], 7, 1, rows, { shift: true, control: true })).toEqual([4, 7, 1]);
  });
});

describe("a number that is typed", () => {
  it("is refused with its reason, not changed", () => {
    expect(refusal(70, 0, 64, true)).toBe("From 0 to 64.");
    expect(refusal(2.5, 0, 64, true)).toBe("A whole number.");
    expect(refusal(-1, 0)).toBe("At least 0.");
    expect(refusal(9, undefined, 8)).toBe("At most 8.");
    expect(refusal(null)).toBe("This is no number.");
    expect(refusal(64, 0, 64, true)).toBe("");
  });
});

describe("dropped files", () => {
  it("are results by any of their names, and a table only alone", () => {
    const formats = { results: [".vtu", ".xdmf"], beside: [".h5"], tables: [".csv", ".xlsx"], titles: [] };
    expect(kindOfFiles(["a.h5", "a.xdmf"], formats)).toBe("result");
    expect(kindOfFiles(["load.CSV"], formats)).toBe("table");
    expect(kindOfFiles(["a.csv", "b.csv"], formats)).toBe(null);
    expect(kindOfFiles(["report.pdf"], formats)).toBe(null);
  });
});
