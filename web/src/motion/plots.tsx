import type { AnswerTo } from "../api/asking";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerTable } from "../controls/AnswerTable";
import { Stroke } from "../controls/Stroke";
import { useKindOfSteps, useMac, useModes, useOverTime, useResponse, useShares } from "../lines/motion";
import { Plot } from "../plots/Plot";
import type { StrataTab } from "../plots/tabs";
import { figure } from "../reading/format";
import { Floor } from "./Floor";

const ink = "#23282D";
const iron = "#9E3B23";
const tones = { x: "#9E3B23", y: "#B9791F", z: "#2F7486" };

interface Asked<T> {
  data?: T;
  error: Error | null;
}

/** What stands in the place of a plot that is not there. */
function instead({ error }: Asked<unknown>, waiting: string) {
  return <div className="strata-empty quiet">{error?.message ?? waiting}</div>;
}

function ModesPlot() {
  const { step, set } = useBench("step", "set");
  const asked = useModes();
  if (!asked.data || asked.error) return instead(asked, "The modes are gone through …");
  const { modes, total_mass: total } = asked.data.more;
  // Between two modes nothing is added: a line that climbs at each.
  const x = modes.flatMap((m) => [m.frequency, m.frequency]);
  const so = (axis: number) => {
    let sum = 0;
    return modes.flatMap((m) => {
      const before = sum;
      sum += m.effective_mass[axis] ?? 0;
      return [before / total!, sum / total!];
    });
  };
  const here = modes.find((m) => m.step === step);
  if (total === null)
    return (
      <div className="strata-empty quiet">
        The mass is not known: state the densities of the materials (Intake, key 1) to see how much of it moves.
      </div>
    );
  return (
    <div className="plot-column" data-testid="modes-plot">
      <Plot
        lines={(["x", "y", "z"] as const).map((axis, k) => ({
          name: `along ${axis}`,
          x,
          y: so(k),
          colour: tones[axis],
          dash: ["", "dash", "dot"][k] || undefined,
          steps: true,
        }))}
        xTitle="frequency, Hz"
        yTitle="share of the mass in the modes so far"
        fromZero
        here={{ x: here?.frequency ?? null, y: null }}
        onStep={(i) => set({ step: modes[Math.floor(i / 2)]!.step })}
        label={`share of the mass that moves in the ${asked.data.sentence}`}
      />
      <div className="row-line small-line">
        {(["x", "y", "z"] as const).map((axis) => (
          <span key={axis}>
            <Stroke colour={tones[axis]} dashed={axis !== "x"} /> along {axis}
          </span>
        ))}
      </div>
    </div>
  );
}

function ModesTable() {
  const { step, set } = useBench("step", "set");
  const asked = useModes();
  if (!asked.data || asked.error) return null;
  const { modes } = asked.data.more;
  return (
    <AnswerTable
      columns={asked.data.columns}
      testid="modes-table"
      on={modes.findIndex((m) => m.step === step)}
      onRow={(i) => set({ step: modes[i]!.step })}
    />
  );
}

function ShapesPlot() {
  const { result, motion, step, set } = useBench("result", "motion", "step", "set");
  const steps = useContents(result).data?.steps.filter((s) => s.kind === "mode") ?? [];
  const asked = useMac();
  if (motion.other === null)
    return <div className="strata-empty quiet">Choose what the modes are held against (drawer, Shapes).</div>;
  if (!asked.data || asked.error) return instead(asked, "Shape is held against shape …");
  return (
    <Floor
      answer={asked.data}
      on={steps.findIndex((s) => s.index === step) + 1}
      onMode={(n) => set({ step: steps[n - 1]!.index })}
    />
  );
}

function ShapesTable() {
  const asked = useMac();
  return asked.data && !asked.error ? <AnswerTable columns={asked.data.columns} testid="pairs-table" /> : null;
}

/** What of a response is drawn: amplitude or level with its peaks, phase, or the imaginary over the real part. */
export function responseFigure(answer: AnswerTo<"response">, drawn: string, step: number | null) {
  const { frequency, amplitude, phase, real, imaginary, peaks } = answer.more;
  const unit = answer.unit || "1";
  const lead = answer.sentence.split(",")[0];
  if (drawn === "nyquist") {
    const part = answer.columns[3]?.unit || "1";
    return {
      lines: [{ name: "response", x: real, y: imaginary, colour: ink, steps: true }],
      xTitle: `real part, ${part}`,
      yTitle: `imaginary part, ${part}`,
      here: { x: step === null ? null : (real[step] ?? null), y: step === null ? null : (imaginary[step] ?? null) },
    };
  }
  const here = { x: step === null ? null : (frequency[step] ?? null), y: null };
  if (drawn === "phase")
    return {
      lines: [{ name: "phase", x: frequency, y: phase, colour: ink, steps: true }],
      xTitle: "frequency, Hz",
      yTitle: "phase, degrees",
      here,
    };
  return {
    lines: [
      { name: drawn === "level" ? "level" : "amplitude", x: frequency, y: amplitude, colour: ink, steps: true },
      {
        name: "peaks",
        x: peaks.map((p) => p.frequency),
        y: peaks.map((p) => p.amplitude),
        colour: iron,
        marks: peaks.map(
          (p) =>
            `${figure(p.frequency, 4)} Hz: ${figure(p.amplitude, 4)} ${unit}, ${p.damping === null ? "no damping told" : `damping ${figure(p.damping, 3)}`}`,
        ),
      },
    ],
    xTitle: "frequency, Hz",
    yTitle: `${lead}, ${unit}`,
    here,
  };
}

function ResponsePlot() {
  const { result, motion, step, set } = useBench("result", "motion", "step", "set");
  const steps = useContents(result).data?.steps ?? [];
  const asked = useResponse();
  if (!motion.at) return <div className="strata-empty quiet">Name the place of the response (drawer, Response).</div>;
  if (!asked.data || asked.error) return instead(asked, "The sweep is read …");
  const at = (i: number) => steps.findIndex((s) => s.value === asked.data.more.frequency[i]);
  const here = asked.data.more.frequency.indexOf(steps[step]?.value ?? Number.NaN);
  return (
    <div className="plot-column" data-testid="response-plot">
      <Plot
        {...responseFigure(asked.data, motion.drawn, here < 0 ? null : here)}
        onStep={(i) => at(i) >= 0 && set({ step: at(i) })}
        label={asked.data.sentence}
      />
    </div>
  );
}

function ResponseTable() {
  const asked = useResponse();
  return asked.data && !asked.error ? <AnswerTable columns={asked.data.columns} testid="response-table" /> : null;
}

/** The motion at the place, and what the chosen modes make of it. */
export function sharesFigure(answer: AnswerTo<"mode-shares">, kind: string, unit: string) {
  const { x, whole, rebuilt } = answer.more;
  return {
    lines: [
      { name: "the whole", x, y: whole, colour: ink, width: 2.2, steps: true },
      { name: "from the chosen modes", x, y: rebuilt, colour: iron, dash: "dash" },
    ],
    xTitle: `${kind}${unit && `, ${unit}`}`,
    yTitle: `displacement, ${answer.unit || "1"}`,
  };
}

function SharesPlot() {
  const { result, motion, step, set } = useBench("result", "motion", "step", "set");
  const here = useContents(result).data?.steps[step];
  const asked = useShares();
  if (!motion.at || motion.other === null)
    return <div className="strata-empty quiet">Choose the modes and the place (drawer, Shares).</div>;
  if (!asked.data || asked.error) return instead(asked, "The motion is taken apart …");
  return (
    <div className="plot-column" data-testid="shares-plot">
      <Plot
        {...sharesFigure(asked.data, here?.kind ?? "", here?.unit ?? "")}
        here={{ x: here?.value ?? null, y: null }}
        onStep={(i) => set({ step: i })}
        label={asked.data.sentence}
      />
    </div>
  );
}

function SharesTable() {
  const asked = useShares();
  return asked.data && !asked.error ? <AnswerTable columns={asked.data.columns} testid="shares-table" /> : null;
}

/** What is read off a motion over time, as a plot. */
export function timeFigure(of: "spectrum" | "shock" | "decay", asked: ReturnType<typeof useAsked>) {
  const { spectrum, shock, decay } = asked;
  if (of === "spectrum" && spectrum.data) {
    const { frequency, amplitude } = spectrum.data.more;
    return {
      lines: [{ name: "amplitude", x: frequency.slice(1), y: amplitude.slice(1), colour: ink }],
      xTitle: "frequency, Hz",
      yTitle: `amplitude, ${spectrum.data.unit || "1"}`,
      label: spectrum.data.sentence,
    };
  }
  if (of === "shock" && shock.data) {
    const { frequency, response } = shock.data.more;
    return {
      lines: [{ name: "largest acceleration", x: frequency, y: response, colour: ink }],
      xTitle: "own frequency, Hz",
      yTitle: `largest acceleration, ${shock.data.unit || "1"}`,
      label: shock.data.sentence,
    };
  }
  if (of === "decay" && decay.data) {
    const { peaks } = decay.data.more;
    const [x, y] = [peaks.map((p) => p[0]!), peaks.map((p) => p[1]!)];
    return {
      lines: [
        { name: "swings", x, y, colour: ink },
        { name: "extremes", x, y, colour: iron, marks: y.map((v) => figure(v, 4)) },
      ],
      xTitle: "time, s",
      yTitle: `extremes, ${decay.data.unit || "1"}`,
      label: decay.data.sentence,
    };
  }
  return null;
}

function useAsked() {
  return { spectrum: useOverTime("spectrum"), shock: useOverTime("shock"), decay: useOverTime("decay") };
}

function TimePlot() {
  const motion = useBench((s) => s.motion);
  const asked = useAsked();
  if (!motion.at) return <div className="strata-empty quiet">Name the place of the motion (drawer, Time).</div>;
  const now = asked[motion.of];
  const drawn = now.error ? null : timeFigure(motion.of, asked);
  if (!drawn) return instead(now, "It is worked out …");
  return (
    <div className="plot-column" data-testid="time-plot">
      <Plot {...drawn} />
    </div>
  );
}

function TimeTable() {
  const of = useBench((s) => s.motion).of;
  const now = useAsked()[of];
  return now.data && !now.error ? <AnswerTable columns={now.data.columns} testid="time-table" /> : null;
}

function useIn(kind: string, but = false): boolean {
  const here = useKindOfSteps();
  return useBench((s) => s.bay) === "motion" && (but ? here !== undefined && here !== kind : here === kind);
}

export const motionPlots: StrataTab[] = [
  {
    name: "modes",
    label: "Modes",
    title: "The mass that moves in the modes",
    plot: () => <ModesPlot />,
    table: () => <ModesTable />,
    useThere: () => useIn("mode"),
  },
  {
    name: "shapes",
    label: "Shapes",
    title: "Shapes held against each other (MAC)",
    plot: () => <ShapesPlot />,
    table: () => <ShapesTable />,
    useThere: () => useIn("mode"),
  },
  {
    name: "response",
    label: "Response",
    title: "Amplitude and phase over frequency",
    plot: () => <ResponsePlot />,
    table: () => <ResponseTable />,
    useThere: () => useIn("frequency"),
  },
  {
    name: "time",
    label: "Over time",
    title: "What is read off a motion over time",
    plot: () => <TimePlot />,
    table: () => <TimeTable />,
    useThere: () => useIn("time"),
  },
  {
    name: "shares",
    label: "Rebuilt",
    title: "The motion from chosen modes beside the whole",
    plot: () => <SharesPlot />,
    table: () => <SharesTable />,
    useThere: () => useIn("mode", true),
  },
];
