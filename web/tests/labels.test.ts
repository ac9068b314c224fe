import { expect, test } from "vitest";
import { placeLabels } from "../src/view/labels";

const size = { width: 130, height: 18 };
const place = (marks: { x: number; y: number }[], there: { x: number; y: number }[] = [], width = 900) =>
  placeLabels(
    marks,
    marks.map(() => size),
    width,
    500,
    there.map(({ x, y }) => ({ x: x - 6, y: y - 6, width: 12, height: 12 })),
  );
const apart = (a: { x: number; y: number }, b: { x: number; y: number }) =>
  Math.abs(a.x - b.x) >= size.width || Math.abs(a.y - b.y) >= size.height;

test("a label stands on the right of its mark, and on the left where the window ends", () => {
  expect(place([{ x: 300, y: 100 }])).toEqual([{ x: 312, y: 91 }]);
  expect(place([{ x: 820, y: 100 }])[0]!.x).toBe(820 - 12 - 130);
});

test("it leaves a flag's dot to be seen", () => {
  expect(place([{ x: 300, y: 100 }], [{ x: 340, y: 104 }])[0]!.x).toBe(300 - 12 - 130);
  expect(place([{ x: 300, y: 100 }], [{ x: 300, y: 100 }])[0]!.x).toBe(312);
});

test("no label lies on another, wherever their marks are", () => {
  for (const second of [
    { x: 330, y: 104 },
    { x: 300, y: 100 },
    { x: 430, y: 95 },
    { x: 200, y: 110 },
  ])
    for (const width of [900, 480, 320]) {
      const [a, b] = place([{ x: 300, y: 100 }, second], [], width);
      expect(apart(a!, b!)).toBe(true);
    }
});
