interface Place {
  x: number;
  y: number;
}

interface Size {
  width: number;
  height: number;
}

/** What takes room in the window. */
export type Box = Place & Size;

const MARK = 12;

/** The room a mark takes about its place. */
export const aroundMark = ({ x, y }: Place): Box => ({ x: x - MARK / 2, y: y - MARK / 2, width: MARK, height: MARK });

const gap = 12;
/** So many places are tried on either side before a label may lie on another. */
const tries = 14;

/**
 * Where labels stand beside their marks so that none lies on another or on what is there already, inside a window: beside it, else
 * up or down from there.
 */
export function placeLabels(marks: Place[], sizes: Size[], width: number, height: number, there: Box[] = []): Place[] {
  const taken = [...there];
  return marks.map((mark, i) => {
    const size = sizes[i] ?? { width: 0, height: 0 };
    let best: Place | null = null;
    for (let n = 0; n < 2 * tries && !best; n++) {
      // Right, left, then one row higher, lower, and so on.
      const right = n % 2 === 0;
      const row = Math.ceil(Math.floor(n / 2) / 2) * (Math.floor(n / 2) % 2 ? -1 : 1);
      const place = {
        x: right ? mark.x + gap : mark.x - gap - size.width,
        y: mark.y - size.height / 2 + row * (size.height + 2),
      };
      const inside =
        place.x >= 2 && place.x + size.width <= width - 2 && place.y >= 2 && place.y + size.height <= height - 2;
      if (inside && !taken.some((t) => overlap(t, { ...place, ...size }))) best = place;
    }
    const found = best ?? { x: mark.x + gap, y: mark.y - size.height / 2 };
    taken.push({ ...found, ...size });
    return found;
  });
}

export const overlap = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
