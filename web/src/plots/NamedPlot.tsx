import { useContents, useNamed } from "../api/queries";
import { useBench } from "../bench/store";
import { Stroke } from "../controls/Stroke";
import { figure } from "../reading/format";
import { namedPlot } from "./curves";
import { Plot } from "./Plot";

/** All named curves over the steps. */
export function NamedPlot() {
  const { step, set } = useBench("step", "set");
  const drawn = useDrawn();
  if (!drawn) return <div className="strata-empty quiet">No curve by name yet: make one in the Trace bay (key 5).</div>;
  const { plot, steps } = drawn;
  return (
    <div className="plot-column" data-testid="named-plot">
      <Plot
        {...plot}
        here={{ x: steps[step]?.value ?? null, y: plot.lines[0]?.y[step] ?? null }}
        onStep={(s) => set({ step: s, playing: false })}
        label="named curves over the steps"
      />
    </div>
  );
}

function useDrawn() {
  const result = useBench((s) => s.result);
  const contents = useContents(result);
  const named = useNamed(result);
  if (!named.data?.length || !contents.data) return null;
  const { steps } = contents.data;
  const axis = { label: steps[0]!.kind, unit: steps[0]!.unit, values: steps.map((s) => s.value) };
  return { plot: namedPlot(named.data, axis), steps, curves: named.data };
}

/** What each line is, with its value at the step in view. */
export function NamedLegend() {
  const step = useBench((s) => s.step);
  const drawn = useDrawn();
  if (!drawn) return null;
  const good = drawn.curves.filter((c) => !c.error);
  return (
    <div className="legend-list">
      {drawn.plot.lines.map((l, i) => (
        <div key={l.name} title={good[i]!.sentence}>
          <Stroke colour={l.colour} dashed={l.dash === "dash"} /> {l.name}{" "}
          <span className="fig quiet">
            {figure(good[i]!.values[step])} {good[i]!.unit}
          </span>
        </div>
      ))}
    </div>
  );
}
