import type { Contents } from "../api/client";
import type { BenchState, Pane } from "../bench/store";

/** Phases a cycle is played by, in degrees: the last one leads on to the first without a seam. */
export const phases: readonly number[] = Array.from({ length: 24 }, (_, i) => 15 * i);

/** What has a cycle in view: a harmonic, which is read at a phase, or a mode, which is drawn at one; null: neither. */
export function cycleOf(
  contents: Pick<Contents, "fields" | "steps" | "moves"> | undefined,
  { reading, step }: Pick<BenchState, "reading" | "step">,
): "harmonic" | "mode" | null {
  if (!contents || !reading) return null;
  if (contents.fields.some((f) => f.name === reading.field && f.harmonic)) return "harmonic";
  return contents.moves && contents.steps[step]?.kind === "mode" ? "mode" : null;
}

export const wholeDegrees = (degrees: number): number => ((Math.round(degrees) % 360) + 360) % 360;

/** The change that takes what has a cycle to a phase. */
export function atPhase(
  { reading, result, step }: Pick<Pane, "reading" | "result" | "step">,
  cycle: "harmonic" | "mode",
  degrees: number,
): Partial<Pane> {
  const whole = wholeDegrees(degrees);
  if (cycle === "mode") return { swing: { result, step, degrees: whole } };
  return reading ? { reading: { ...reading, phase: String(whole) } } : {};
}
