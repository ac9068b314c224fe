import type { Playing } from "./store";

/** The steps that are played, in order, once through: the range by its stride, backwards or to and fro as asked. */
export function playedSteps({ from, to, stride, way, only }: Playing, count: number): number[] {
  const first = Math.min(Math.max(from, 0), count - 1);
  const last = Math.min(Math.max(to ?? count - 1, first), count - 1);
  const on: number[] = [];
  for (let step = first; step <= last; step += Math.max(1, stride)) on.push(step);
  if (only) {
    const held = on.filter((step) => only.steps.includes(step));
    // Where it holds nowhere in the range, the step in view stays.
    on.splice(0, on.length, ...(held.length ? held : on.slice(0, 1)));
  }
  if (way === "back") return on.reverse();
  return way === "both" ? [...on, ...on.slice(1, -1).reverse()] : on;
}

/** The step after one, and the way it goes on; from a step that is not among the played ones, the nearest ahead. */
export function nextStep(play: Playing, count: number, step: number, way: 1 | -1): { step: number; way: 1 | -1 } {
  const once = playedSteps({ ...play, way: "on" }, count);
  const ahead = way > 0 ? once.find((s) => s > step) : once.findLast((s) => s < step);
  if (ahead !== undefined) return { step: ahead, way };
  if (play.way !== "both" || once.length < 2) return { step: way > 0 ? once[0]! : once[once.length - 1]!, way };
  return { step: way > 0 ? once[once.length - 2]! : once[1]!, way: way > 0 ? -1 : 1 };
}
