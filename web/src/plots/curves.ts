import type { Match, Pairing, Schemas } from "../api/client";
import type { Line } from "./Plot";

export const modelColour = "#23282D";
export const testColour = "#2F7486";

const unitOf = (label: string, unit: string | null) => `${label}, ${unit === null ? "unit not stated" : unit || "1"}`;

/** The loop: the model's pairing, and the corrected record brought to the model's units. */
export function loopPlot(pairing: Pairing, record: Schemas["OverlayOut"] | undefined) {
  const lines: Line[] = [];
  if (record) lines.push({ name: record.name, x: record.x, y: record.y, colour: testColour, width: 1 });
  lines.push({ name: pairing.y.label, x: pairing.x.values, y: pairing.y.values, colour: modelColour, steps: true });
  return { lines, xTitle: unitOf(pairing.x.label, pairing.x.unit), yTitle: unitOf(pairing.y.label, pairing.y.unit) };
}

export function energyPlot(pairing: Pairing, match: Match | undefined) {
  const cycles = pairing.loops.cycles;
  const names = cycles.map((_, i) => String(i + 1));
  const lines: Line[] = [
    { name: "model", x: names as unknown as number[], y: cycles.map((c) => c.energy), colour: modelColour, bars: true },
  ];
  const compared = match?.metrics.filter((m) => m.name.startsWith("energy_cycle_")) ?? [];
  if (compared.length) {
    lines.push({
      name: "test",
      x: compared.map((_, i) => String(i + 1)) as unknown as number[],
      y: compared.map((m) => m.test),
      colour: testColour,
      bars: true,
    });
  }
  return { lines, xTitle: "cycle", yTitle: unitOf("energy of the cycle", pairing.loops.energy_unit), categories: true };
}

export function historyPlot(pairing: Pairing, which: "x" | "y") {
  const axis = pairing[which];
  return {
    lines: [{ name: axis.label, x: pairing.steps.values, y: axis.values, colour: modelColour, steps: true }] as Line[],
    xTitle: unitOf(pairing.steps.label, pairing.steps.unit),
    yTitle: unitOf(axis.label, axis.unit),
  };
}
