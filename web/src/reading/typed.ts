/** Places as they are typed: three numbers in any of the usual ways, or a place of the one grammar. */
import { parse } from "./format";

export type Point = [number, number, number];

/** How a point is typed, for a field that is empty. */
export const pointHint = "20 0 0";

/** A number in thousands, "1,000", that would be 1 where the comma is a decimal one. */
const thousands = (piece: string) => /^[-\u2212+]?[1-9]\d{0,2},\d{3}$/.test(piece);

/** The ways three numbers may be parted. A space inside a number is none of them: "2 0, 0, 0" is four numbers, not three. */
function readings(text: string): number[][] {
  const ways = text.includes(";") ? [text.split(";")] : [text.split(/[ \t]+/), text.split(/,[ \t]+/), text.split(",")];
  return ways.flatMap((pieces) => {
    const numbers = pieces.map((piece) => (/\S[ \t]+\S/.test(piece.trim()) ? null : parse(piece)));
    const commas = pieces.map((p) => p.trim()).filter((p) => p.includes(","));
    if (numbers.some((n) => n === null) || (commas.length && commas.every(thousands))) return [];
    return [numbers as number[]];
  });
}

/** Three numbers as an analyst types them: "20 0 0", "20, 0, 0", "20;0;0", "1,5 0 2,5"; null where they are not three, or could be
 * two different points. */
export function parsePoint(text: string): Point | null {
  const found = readings(text.trim()).filter((numbers) => numbers.length === 3);
  const different = new Set(found.map((numbers) => numbers.join()));
  return different.size === 1 ? (found[0] as Point) : null;
}

/** Why a text is no point, and how one is typed. */
export function whyNoPoint(text: string): string {
  const counts = readings(text.trim()).map((numbers) => numbers.length);
  const few = counts.length && !counts.includes(3) ? `These are ${Math.max(...counts)} numbers, not three. ` : "";
  return `${few || "This cannot be read as three numbers. "}Type it as 20 0 0 or 20; 0; 0; a decimal comma needs spaces or semicolons between the numbers.`;
}

/** A place as the grammar writes it, from what is typed: three numbers are a point, the name of a set that set. */
export function placeFrom(text: string, sets: string[]): string {
  const typed = text.trim();
  const [, kind, rest] = /^(point|node|element|set|gauss)\s*:?\s+(.*)$/i.exec(typed) ?? [];
  const [head, tail] = kind
    ? [kind.toLowerCase(), rest!]
    : [/^(\w+):/.exec(typed)?.[1] ?? "", typed.replace(/^\w+:\s*/, "")];
  if (sets.includes(typed)) return `set:${typed}`;
  if (head === "point" || !head) {
    const point = parsePoint(tail);
    return point ? `point:${point.join(",")}` : typed;
  }
  return `${head}:${tail.trim()}`;
}
