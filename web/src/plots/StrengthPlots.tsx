import type { AnswerTo } from "../api/asking";
import { useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { exposureWords, plyName, rank, useEnvelope, useStack, useTested } from "../lines/strength";
import { figure } from "../reading/format";
import { Plot } from "./Plot";

/** Loading, failed and empty are said apart. */
function Waiting({ asked, empty }: { asked: { error: Error | null; isFetching: boolean }; empty: string }) {
  return (
    <div className="strata-empty quiet">
      {asked.error ? asked.error.message : asked.isFetching ? "Working …" : empty}
    </div>
  );
}

/** Exposure of every ply over the height in the wall, each of its places. */
export function StackPlot() {
  const asked = useStack();
  if (!asked.data || asked.error)
    return <Waiting asked={asked} empty="No element is picked: pick one in the Strength bay (key 6)." />;
  const stack = asked.data.more;
  const parts = [
    { name: "exposure", value: (i: number) => stack.plies[i]!.exposure, colour: "#9E3B23" },
    { name: "1: fails", value: () => 1, colour: "#23282D" },
  ];
  return (
    <div className="plot-column" data-testid="stack-plot">
      <Plot
        lines={parts.map((p, k) => ({
          name: p.name,
          x: stack.plies.map((_, i) => p.value(i)),
          y: stack.plies.map((r) => r.z),
          colour: p.colour,
          dash: k ? "dash" : undefined,
        }))}
        xTitle="exposure"
        yTitle={`height in the wall, ${stack.length}`}
        label={asked.data.sentence}
      />
    </div>
  );
}

/** Every ply at each of its places. */
export function StackTable() {
  const asked = useStack();
  if (!asked.data || asked.error) return null;
  const stack = asked.data.more;
  return (
    <div className="scroll-table" data-testid="stack-table">
      <table className="figures">
        <thead>
          <tr>
            <th>ply</th>
            <th>angle °</th>
            <th>place</th>
            <th>exposure</th>
            <th>reserve</th>
            <th>index</th>
            <th>mode</th>
            <th>σ11 {stack.unit}</th>
            <th>σ22</th>
            <th>τ12</th>
            <th>ε11</th>
            <th>ε22</th>
            <th>γ12</th>
          </tr>
        </thead>
        <tbody>
          {[...stack.plies].reverse().map((r) => (
            <tr key={`${r.position} ${r.place}`} className={rank(r) >= 1 ? "row-fails" : ""}>
              <td>{r.sheet ?? r.position}</td>
              <td>{figure(r.angle, 3)}</td>
              <td>{r.place}</td>
              <td>{exposureWords(r, 3)}</td>
              <td>{figure(r.reserve, 3)}</td>
              <td>{figure(r.index, 3)}</td>
              <td className="word">{r.mode}</td>
              {r.stress.slice(0, 3).map((v, i) => (
                <td key={`s${i}`}>{figure(v, 3)}</td>
              ))}
              {r.strain.map((v, i) => (
                <td key={`e${i}`}>{v === null ? "" : `${figure(100 * v, 2)} %`}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The envelope of the criterion with the coupons as crosses, and the way of the place that fails first. */
export function EnvelopePlot() {
  const { step, set } = useBench("step", "set");
  const asked = useEnvelope();
  if (!asked.data || asked.error) return <Waiting asked={asked} empty="No laminates are stated." />;
  return (
    <div className="plot-column" data-testid="envelope-plot">
      <Plot
        {...envelopeFigure(asked.data, step)}
        onStep={(s) => set({ step: s, playing: false })}
        label={asked.data.sentence}
      />
    </div>
  );
}

/** What is drawn of an envelope, also in a picture that is kept. */
export function envelopeFigure(answer: AnswerTo<"envelope">, step: number) {
  const more = answer.more;
  const [x, y] = answer.columns!;
  const here = more.way[step];
  // The way ends where it fails.
  const way = more.ends ? [...more.way.filter((w) => w.step < more.ends!.step), more.ends] : more.way;
  const lines = [
    { name: "envelope", x: x!.values as number[], y: y!.values as number[], colour: "#2F7486", width: 2 },
    {
      name: "coupons",
      x: more.coupons.map((c) => c.x),
      y: more.coupons.map((c) => c.y),
      colour: "#23282D",
      marks: more.coupons.map((c) => `${c.specimen} of ${c.of}`),
      cross: true,
    },
    {
      name: more.place ? `way of element ${more.place.element}, ${plyName(more.place)}` : "way",
      x: way.map((w) => w.x),
      y: way.map((w) => w.y),
      colour: "#9E3B23",
      width: 2,
      steps: true,
    },
  ];
  return {
    lines: lines.filter((l) => l.x.length),
    here: here ? { x: here.x, y: here.y } : undefined,
    xTitle: `stress ${more.names[0]}, ${answer.unit}`,
    yTitle: `stress ${more.names[1]}, ${answer.unit}`,
  };
}

const planes = [
  { value: "22-12", label: "22, 12" },
  { value: "11-22", label: "11, 22" },
  { value: "11-12", label: "11, 12" },
] as const;

/** In which plane the envelope is drawn, and what stands on it. */
export function EnvelopeLegend() {
  const { envelope, set } = useBench("envelope", "set");
  const asked = useEnvelope();
  if (!asked.data) return null;
  const more = asked.data.more;
  return (
    <div className="legend-list" data-testid="envelope-legend">
      <Choices
        name="Plane of stresses"
        options={planes}
        value={envelope.plane}
        onChoose={(plane) => set({ envelope: { ...envelope, plane } })}
      />
      <div className="small-line">{asked.data.sentence}.</div>
      <label className="small-line">
        <input
          type="checkbox"
          checked={envelope.held}
          onChange={(e) => set({ envelope: { ...envelope, held: e.target.checked } })}
        />{" "}
        at the stress {more.third.name} of the place that fails, else at 0
      </label>
      <div className="small-line quiet">
        {more.coupons.length} coupons stand on it as crosses. The iron line is the way of the place that fails first.
      </div>
      {asked.data.caveats!.map((c) => (
        <div className="caveat caveat-in" key={c}>
          {c}
        </div>
      ))}
    </div>
  );
}

/** Predicted over tested of every criterion, each specimen a mark: 1 agrees. */
export function TestedPlot() {
  const asked = useTested();
  if (!asked.data || asked.error)
    return <Waiting asked={asked} empty="No tests of parts yet: bring them in the Strength bay (key 6), tab Tests." />;
  return (
    <div className="plot-column" data-testid="tested-plot">
      <Plot {...testedFigure(asked.data)} label={asked.data.sentence} />
    </div>
  );
}

/** What is drawn of tests, also in a picture that is kept. */
export function testedFigure(answer: AnswerTo<"tested">) {
  const more = answer.more;
  const names = more.criteria.map((c) => c.label);
  return {
    lines: [
      ...more.parts.map((p, i) => ({
        name: p.specimen,
        x: names as unknown as number[],
        y: more.criteria.map((c) => c.ratios[i]!),
        colour: ["#2F7486", "#B9791F", "#4F7343", "#6B4E71", "#23282D"][i % 5]!,
        marks: more.criteria.map((c) => `${p.specimen}, ${c.label}`),
        cross: true,
      })),
      {
        name: "1: as tested",
        x: names as unknown as number[],
        y: names.map(() => 1),
        colour: "#23282D",
        dash: "dash",
      },
    ],
    categories: true,
    xTitle: "",
    yTitle: "predicted over tested",
  };
}

/** The criteria side by side, the closest first. */
export function TestedTable() {
  const asked = useTested();
  const { criterion, set } = useBench("criterion", "set");
  if (!asked.data || asked.error) return null;
  const more = asked.data.more;
  const bond = criterion.endsWith("+bond") ? "+bond" : "";
  return (
    <div className="scroll-table" data-testid="tested-table">
      <table className="figures">
        <thead>
          <tr>
            <th>criterion</th>
            <th>predicted {asked.data.unit}</th>
            <th>over tested</th>
            <th>off</th>
            <th>where</th>
            <th>mode</th>
            <th>as seen</th>
          </tr>
        </thead>
        <tbody>
          {more.criteria.map((c) => (
            <tr key={c.criterion} className={c.criterion === more.mine.criterion ? "chosen-row" : ""}>
              <td className="word">
                <button type="button" className="link" onClick={() => set({ criterion: c.criterion + bond })}>
                  {c.label}
                </button>
              </td>
              <td>{figure(c.predicted, 3)}</td>
              <td>{figure(c.mean, 3)}</td>
              <td>{figure(100 * c.off, 2)} %</td>
              <td className="word">
                {c.zone}
                {c.sheet ? `, ${c.sheet}` : ""}
              </td>
              <td className="word">{c.mode}</td>
              <td>{c.told ? `${c.as_seen} of ${c.told}` : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
