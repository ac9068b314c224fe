import type { AnswerTo } from "../api/asking";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerTable } from "../controls/AnswerTable";
import { Stroke } from "../controls/Stroke";
import {
  type OverTime,
  useAllOverTime,
  useKindOfSteps,
  useMac,
  useModes,
  useResponse,
  useResponses,
  useShares,
} from "../lines/motion";
import { Plot } from "../plots/Plot";
import type { StrataTab } from "../plots/tabs";
import { figure } from "../reading/format";
import { Floor } from "./Floor";
import { besideColour, responseFigure } from "./responseFigure";

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

function ResponsePlot() {
  const { result, motion, step, set } = useBench("result", "motion", "step", "set");
  const steps = useContents(result).data?.steps ?? [];
  const asked = useResponse();
  const beside = useResponses().data?.more.curves ?? [];
  const shown = motion.beside.length ? beside : [];
  if (!motion.at) return <div className="strata-empty quiet">Name the place of the response (drawer, Response).</div>;
  if (!asked.data || asked.error) return instead(asked, "The sweep is read …");
  const at = (i: number) => steps.findIndex((s) => s.value === asked.data.more.frequency[i]);
  const here = asked.data.more.frequency.indexOf(steps[step]?.value ?? Number.NaN);
  return (
    <div className="plot-column" data-testid="response-plot">
      <Plot
        {...responseFigure(asked.data, motion.drawn, here < 0 ? null : here, shown)}
        onStep={(i) => at(i) >= 0 && set({ step: at(i) })}
        label={asked.data.sentence}
      />
      {shown.length > 0 && (
        <div className="row-line small-line" data-testid="response-legend">
          <span>
            <Stroke colour={ink} /> {motion.at}
          </span>
          {shown.map((c, i) => (
            <span key={c.beside}>
              <Stroke colour={besideColour(i)} dashed={!c.beside.startsWith("test:")} /> {c.name}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}

function ResponseTable() {
  const asked = useResponse();
  const drawn = useBench((s) => s.motion).drawn;
  const held = useResponses();
  const beside = useBench((s) => s.motion).beside.length > 0;
  if (beside && held.data?.columns[0]?.values.length)
    return <AnswerTable columns={held.data.columns} testid="response-pairs" />;
  if (!asked.data || asked.error) return null;
  const { bands } = asked.data.more;
  const columns =
    drawn === "bands"
      ? [
          { name: "third octave", unit: "Hz", values: bands.map(([centre]) => centre!) },
          { name: "level", unit: "dB", values: bands.map(([, level]) => level!) },
        ]
      : asked.data.columns;
  return <AnswerTable columns={columns} testid="response-table" />;
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
export function timeFigure(of: OverTime, asked: ReturnType<typeof useAllOverTime>) {
  const { spectrum, spectrogram, shock, decay, rebound } = asked;
  const line = (name: string, x: number[], y: (number | null)[]) => ({ name, x, y, colour: ink });
  if (of === "spectrum" && spectrum.data) {
    const { frequency, amplitude } = spectrum.data.more;
    return {
      lines: [line("amplitude", frequency.slice(1), amplitude.slice(1))],
      xTitle: "frequency, Hz",
      yTitle: `amplitude, ${spectrum.data.unit || "1"}`,
      label: spectrum.data.sentence,
    };
  }
  if (of === "spectrogram" && spectrogram.data) {
    const { frequency, time, amplitude } = spectrogram.data.more;
    return {
      lines: [],
      field: { x: time, y: frequency, z: amplitude, unit: spectrogram.data.unit || "1" },
      xTitle: "time, s",
      yTitle: "frequency, Hz",
      label: spectrogram.data.sentence,
    };
  }
  if (of === "shock" && shock.data) {
    const { frequency, response } = shock.data.more;
    return {
      lines: [line("largest acceleration", frequency, response)],
      xTitle: "own frequency, Hz",
      yTitle: `largest acceleration, ${shock.data.unit || "1"}`,
      label: shock.data.sentence,
    };
  }
  if (of === "decay" && decay.data) {
    const { peaks } = decay.data.more;
    const [x, y] = [peaks.map((p) => p[0]!), peaks.map((p) => p[1]!)];
    return {
      lines: [line("swings", x, y), { name: "extremes", x, y, colour: iron, marks: y.map((v) => figure(v, 4)) }],
      xTitle: "time, s",
      yTitle: `extremes, ${decay.data.unit || "1"}`,
      label: decay.data.sentence,
    };
  }
  if (of === "rebound" && rebound.data) {
    const { time, speed, force, begins, ends, force_unit } = rebound.data.more;
    const pushes = force.length
      ? [{ name: "force", x: time, y: force, colour: tones.y, dash: "dash", second: true as const }]
      : [];
    return {
      lines: [line("speed", time, speed), ...pushes],
      stretches: [{ part: "event", from: begins, to: ends }],
      xTitle: `time, ${rebound.data.more.time_unit}`,
      yTitle: `speed, ${rebound.data.unit || "1"}`,
      secondTitle: force.length ? `force, ${force_unit}` : undefined,
      label: rebound.data.sentence,
    };
  }
  return null;
}

function TimePlot() {
  const motion = useBench((s) => s.motion);
  const asked = useAllOverTime();
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
  const now = useAllOverTime()[of];
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
