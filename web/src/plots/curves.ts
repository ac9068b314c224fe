import type { Match, Pairing, Schemas } from "../api/client";
import { strokes } from "../theme/strokes";
import type { Line } from "./figure";

export const modelColour = "#23282D";
export const testColour = "#2F7486";

const unitOf = (label: string, unit: string | null) => `${label}, ${unit === null ? "unit not stated" : unit || "1"}`;

/** The loop: the model's pairing, the same of other results, and the corrected record, brought to the model's units. only: cycles that
 * are drawn alone; other results are then left out, whose cycles may be others. */
export function loopPlot(
  pairing: Pairing,
  record: Schemas["OverlayOut"] | undefined,
  others: Schemas["CurveOf"][] = [],
  only: number[] = [],
) {
  const cycles = pairing.loops.cycles
    .map((c, i) => ({ ...c, number: i + 1 }))
    .filter((c) => !only.length || only.includes(c.number));
  const within = (i: number) => !only.length || cycles.some((c) => c.start <= i && i <= c.stop);
  const lines: Line[] = others
    .filter((c) => !c.error && !only.length)
    .map((c, i) => ({
      name: c.result,
      x: c.x,
      y: c.y,
      colour: strokes[(i + 1) % strokes.length]!,
      width: 1.2,
      dash: "dash",
    }));
  for (const [end, values] of [
    ["lowest", record?.low],
    ["highest", record?.high],
  ] as const)
    if (record && values)
      lines.push({ name: `${end} of the specimens`, x: record.x, y: values, colour: "#9DBAC2", width: 1, dash: "dot" });
  if (record) lines.push({ name: record.name, x: record.x, y: record.y, colour: testColour, width: 1 });
  if (cycles.length && !only.length)
    lines.push({
      name: "envelope",
      x: pairing.loops.envelope_x,
      y: pairing.loops.envelope_y,
      colour: "#B9791F",
      width: 1.2,
      dash: "dash",
    });
  const ends = cycles.flatMap((c) => [
    { x: c.x_peak, y: c.y_peak, says: `cycle ${c.number}, peak` },
    { x: c.x_trough, y: c.y_trough, says: `cycle ${c.number}, trough` },
  ]);
  if (ends.length)
    lines.push({
      name: "peaks and troughs",
      x: ends.map((e) => e.x),
      y: ends.map((e) => e.y),
      marks: ends.map((e) => e.says),
      colour: "#9E3B23",
    });
  // A point keeps its place in the row, by which a click knows its step.
  const alone = (values: (number | null)[]) => values.map((v, i) => (within(i) ? v : null));
  lines.push({
    name: only.length ? `${pairing.y.label}, cycle ${only.join(", ")}` : pairing.y.label,
    x: alone(pairing.x.values),
    y: alone(pairing.y.values),
    colour: modelColour,
    steps: true,
  });
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

/** Named curves over the steps: of one unit on the left, of a second on the right; of more, each against its own largest. */
export function namedPlot(curves: Schemas["NamedOut"][], steps: { label: string; unit: string; values: number[] }) {
  const drawn = curves.filter((c) => !c.error);
  const units = [...new Set(drawn.map((c) => c.unit))];
  const shares = units.length > 2;
  const most = (v: (number | null)[]) => Math.max(...v.map((x) => Math.abs(x ?? 0)), 1e-300);
  const lines: Line[] = drawn.map((c, i) => ({
    name: shares ? `${c.name}, of ${Number(most(c.values).toPrecision(4))} ${c.unit}` : c.name,
    x: steps.values,
    y: shares ? c.values.map((v) => (v === null ? null : v / most(c.values))) : c.values,
    colour: strokes[i % strokes.length]!,
    dash: i < strokes.length ? (!shares && c.unit !== units[0] ? "dash" : "solid") : "dot",
    second: !shares && c.unit !== units[0],
    steps: true,
  }));
  const names = (unit: string | undefined) => {
    const own = drawn.filter((c) => c.unit === unit).map((c) => c.name);
    return unitOf(own.length < 4 ? own.join(", ") : "value", unit ?? "");
  };
  return {
    lines,
    xTitle: unitOf(steps.label, steps.unit),
    yTitle: shares ? "share of each curve's largest" : names(units[0]),
    secondTitle: !shares && units.length === 2 ? `${names(units[1])} (dashed)` : undefined,
  };
}

/** Model less test, at the test's points. */
export function residualPlot(pairing: Pairing, match: Match) {
  const { x, away, rms } = match.deviation;
  const ends = [Math.min(...x), Math.max(...x)];
  const level = (name: string, y: number): Line => ({
    name,
    x: ends,
    y: [y, y],
    colour: "#B9791F",
    width: 1,
    dash: "dot",
  });
  return {
    lines: [
      { name: "model minus test", x, y: away, colour: "#9E3B23", width: 1 },
      ...(rms === null ? [] : [level("RMS", rms), level("-RMS", -rms)]),
    ] as Line[],
    xTitle: unitOf(pairing.x.label, pairing.x.unit),
    yTitle: unitOf("model minus test", match.deviation.unit),
  };
}

/** A reading along a member, and the largest in size it has had so far. */
export function memberPlot(along: Schemas["AlongOut"], label: string) {
  return {
    lines: [
      { name: "largest so far", x: along.distance, y: along.so_far, colour: "#B9791F", dash: "dash", width: 1.2 },
      { name: "at this step", x: along.distance, y: along.values, colour: modelColour },
    ] as Line[],
    xTitle: unitOf("distance along the member", along.distance_unit),
    yTitle: unitOf(label, along.unit),
    fromZero: true,
  };
}

export function historyPlot(pairing: Pairing, which: "x" | "y") {
  const axis = pairing[which];
  return {
    lines: [{ name: axis.label, x: pairing.steps.values, y: axis.values, colour: modelColour, steps: true }] as Line[],
    xTitle: unitOf(pairing.steps.label, pairing.steps.unit),
    yTitle: unitOf(axis.label, axis.unit),
  };
}
