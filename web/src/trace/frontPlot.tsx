import type { AnswerTo } from "../api/asking";
import { useBench } from "../bench/store";
import { AnswerTable } from "../controls/AnswerTable";
import { useFront } from "../lines/front";
import { Plot } from "../plots/Plot";
import { figure } from "../reading/format";

/** The fronts of all steps as lines of a map: every fifth one stronger, the one of the step in view in iron. */
export function frontFigure(answer: AnswerTo<"front">, step: number) {
  const lines = answer.more.fronts.map((f, k) => ({
    name: f.label,
    x: f.x,
    y: f.y,
    colour: f.step === step ? "#9E3B23" : "#676A66",
    width: f.step === step ? 2.4 : k % 5 === 0 ? 1.8 : 1,
  }));
  return {
    lines: lines.filter((l) => l.x.length > 0),
    xTitle: `way along (${answer.more.along.map((v) => figure(v, 3)).join(", ")}), ${answer.unit || "1"}`,
    yTitle: `across, ${answer.unit || "1"}`,
  };
}

export function FrontPlot() {
  const step = useBench((s) => s.step);
  const asked = useFront();
  if (!asked.data || asked.error)
    return <div className="strata-empty quiet">{asked.error?.message ?? "The front is looked for at each step …"}</div>;
  const drawn = frontFigure(asked.data, step);
  // Of solids a front is a surface: its way over the steps is drawn in its place.
  const [steps, , way] = asked.data.columns;
  const over = {
    lines: [{ name: "way", x: steps!.values as number[], y: way!.values as number[], colour: "#23282D", steps: true }],
    xTitle: `${steps!.name}${steps!.unit ? `, ${steps!.unit}` : ""}`,
    yTitle: `way, ${way!.unit}`,
  };
  return (
    <div className="plot-column" data-testid="front-plot">
      <Plot {...(drawn.lines.length ? drawn : over)} label={asked.data.sentence} />
    </div>
  );
}

export function FrontTable() {
  const { step, set } = useBench("step", "set");
  const asked = useFront();
  if (!asked.data || asked.error) return null;
  const { fronts } = asked.data.more;
  return (
    <AnswerTable
      columns={asked.data.columns}
      testid="front-table"
      on={fronts.findIndex((f) => f.step === step)}
      onRow={(i) => set({ step: fronts[i]!.step, playing: false })}
    />
  );
}
