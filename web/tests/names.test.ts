import { describe, expect, test } from "vitest";
import { fileName } from "../src/bench/clipboard";

describe("names of files", () => {
  test.each([
    ["flexure B2 loop", "csv", "flexure B2 loop.csv"],
    ["lug, coarse: t = 2.5 s", "png", "lug_ coarse_ t _ 2.5 s.png"],
    ["ends with a dot.", "svg", "ends with a dot.svg"],
    ["   ", "png", "file.png"],
    ["", "gif", "file.gif"],
    ["../../etc/passwd", "csv", ".._.._etc_passwd.csv"],
  ])("'%s' as %s is '%s'", (name, kind, file) => {
    expect(fileName(name, kind)).toBe(file);
  });

  test("a long one is cut at a word and keeps its kind", () => {
    const long = "von Mises of stress, each corner as computed, on the whole model, at t = 2.5 s (step 6 of 9), in MPa";
    const found = fileName(long, "png");
    expect(found).toBe("von Mises of stress_ each corner as computed_ on the whole.png");
    expect(fileName("x".repeat(300), "webm")).toBe(`${"x".repeat(60)}.webm`);
  });
});
