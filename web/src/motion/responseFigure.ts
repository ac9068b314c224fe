import type { AnswerTo } from "../api/asking";
import type { Line } from "../plots/figure";
import { figure } from "../reading/format";
import { strokes } from "../theme/strokes";

const ink = "#23282D";
const iron = "#9E3B23";

// The ink is the response's own, iron its peaks'.
const order = [1, 3, 4, 5];

/** The colour of one that stands beside, by its place among them. */
export const besideColour = (place: number) => strokes[order[place % order.length]!]!;

type Response = AnswerTo<"response">;
type Beside = AnswerTo<"responses">["more"]["curves"][number];

/** What of a response is drawn: amplitude or level with its peaks, phase, or the imaginary over the real part; others beside it. */
export function responseFigure(answer: Response, drawn: string, step: number | null, beside: Beside[] = []) {
  const { frequency, amplitude, phase, real, imaginary, peaks, bands } = answer.more;
  const unit = answer.unit || "1";
  const others = (x: keyof Beside, y: keyof Beside): Line[] =>
    beside
      .map((c, i) => ({
        name: c.name,
        x: c[x] as (number | null)[],
        y: c[y] as (number | null)[],
        colour: besideColour(i),
        width: 1.2,
        dash: c.beside.startsWith("test:") ? undefined : "dash",
      }))
      .filter((l) => l.x.length);
  if (drawn === "nyquist") {
    const part = answer.columns[3]?.unit || "1";
    return {
      lines: [...others("real", "imaginary"), { name: "response", x: real, y: imaginary, colour: ink, steps: true }],
      xTitle: `real part, ${part}`,
      yTitle: `imaginary part, ${part}`,
      here: { x: step === null ? null : (real[step] ?? null), y: step === null ? null : (imaginary[step] ?? null) },
    };
  }
  const here = { x: step === null ? null : (frequency[step] ?? null), y: null };
  if (drawn === "bands")
    return {
      lines: [
        {
          name: "third octaves",
          x: bands.map(([centre]) => Number(centre!.toPrecision(3))),
          y: bands.map(([, level]) => level!),
          colour: ink,
          bars: true,
        },
      ],
      categories: true,
      xTitle: "middle of the third octave, Hz",
      yTitle: `level, ${unit}`,
    };
  if (drawn === "phase")
    return {
      lines: [...others("frequency", "phase"), { name: "phase", x: frequency, y: phase, colour: ink, steps: true }],
      xTitle: "frequency, Hz",
      yTitle: "phase, degrees",
      here,
    };
  const damped = (damping: number | null) => (damping === null ? "no damping told" : `damping ${figure(damping, 3)}`);
  return {
    lines: [
      ...others("frequency", "amplitude"),
      { name: drawn === "level" ? "level" : "amplitude", x: frequency, y: amplitude, colour: ink, steps: true },
      {
        name: "peaks",
        x: peaks.map((p) => p.frequency),
        y: peaks.map((p) => p.amplitude),
        colour: iron,
        marks: peaks.map(
          (p) => `${figure(p.frequency, 4)} Hz: ${figure(p.amplitude, 4)} ${unit}, ${damped(p.damping)}`,
        ),
      },
    ],
    xTitle: "frequency, Hz",
    yTitle: `${answer.sentence.split(",")[0]}, ${unit}`,
    here,
  };
}
