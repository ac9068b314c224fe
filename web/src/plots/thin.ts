/** How far a drawn line may be off, in pixels, before it shows; and how many points are drawn before that is doubled. */
const unseen = 0.4;
const plenty = 12_000;

type Values = (number | null)[];

/** Positions of the points a line needs to look the same at so many units a pixel; gaps are kept.
 *
 * From the last point kept a cone is narrowed by each that follows, so that the straight line drawn instead passes them all
 * within the tolerance; where one falls out of it, or the line turns back, the point before is kept.
 */
export function thin(x: Values, y: Values, unitX: number, unitY: number): number[] {
  let tolerance = unseen;
  let kept = narrowed(x, y, unitX, unitY, tolerance);
  while (kept.length > plenty && tolerance < 2) {
    tolerance *= 2;
    kept = narrowed(x, y, unitX, unitY, tolerance);
  }
  return kept;
}

function narrowed(x: Values, y: Values, unitX: number, unitY: number, tolerance: number): number[] {
  const kept: number[] = [];
  let from = -1;
  let before = -1;
  let low = 0;
  let high = 0;
  let aim = 0;
  let farthest = 0;
  const start = (i: number) => {
    kept.push(i);
    from = i;
    before = i;
    farthest = 0;
  };
  for (let i = 0; i < x.length; i++) {
    if (x[i] === null || y[i] === null) {
      if (before > from) kept.push(before);
      if (kept.length && kept[kept.length - 1] !== i) kept.push(i);
      from = before = -1;
      continue;
    }
    if (from < 0) {
      start(i);
      continue;
    }
    for (;;) {
      const across = (x[i]! - x[from]!) / unitX;
      const up = (y[i]! - y[from]!) / unitY;
      const far = Math.hypot(across, up);
      if (far <= tolerance && farthest <= tolerance) break;
      const half = Math.asin(Math.min(1, tolerance / far));
      let angle = Math.atan2(up, across);
      if (farthest <= tolerance) {
        aim = angle;
        low = angle - half;
        high = angle + half;
        farthest = far;
        break;
      }
      angle = aim + Math.atan2(Math.sin(angle - aim), Math.cos(angle - aim));
      if (angle < low || angle > high || far < farthest - tolerance) {
        start(before);
        continue;
      }
      low = Math.max(low, angle - half);
      high = Math.min(high, angle + half);
      farthest = Math.max(farthest, far);
      break;
    }
    before = i;
  }
  if (before > from) kept.push(before);
  return kept;
}

/** A line's points inside a window, with those next to it, as positions; runs outside are cut to their ends. */
export function within(x: Values, y: Values, window: { x: [number, number]; y: [number, number] }): number[] {
  const outside = (i: number) => {
    const [u, v] = [x[i], y[i]];
    if (u === null || v === null || u === undefined || v === undefined) return 0;
    return u < window.x[0] ? 1 : u > window.x[1] ? 2 : v < window.y[0] ? 3 : v > window.y[1] ? 4 : 0;
  };
  const kept: number[] = [];
  for (let i = 0; i < x.length; i++) {
    const here = outside(i);
    if (here && here === (i ? outside(i - 1) : here) && here === (i + 1 < x.length ? outside(i + 1) : here)) continue;
    kept.push(i);
  }
  return kept;
}
