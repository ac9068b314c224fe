import { X } from "lucide-react";
import { useState } from "react";
import { useKeeping } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { useGaugeList, useGauges } from "../lines/gauges";
import { lineColours } from "../lines/profiles";
import { figure, parse } from "../reading/format";
import { useView } from "../view/handle";
import { type Line, Plot } from "./Plot";

/** Computed against measured with the line where they agree, or every gauge through the steps. */
export function GaugePlot() {
  const { result, step, set } = useBench("result", "step", "set");
  const contents = useContents(result);
  const asked = useGauges();
  const [wanted, setWanted] = useState<"agreement" | "steps" | null>(null);
  const rows = asked.data ? asked.data.more.points : [];
  const measured = rows.filter((r) => r.measured !== null && r.value !== null);
  const what = wanted ?? (measured.length ? "agreement" : "steps");
  const through = useGauges(what === "steps", true);
  if (asked.error) return <div className="strata-empty quiet">{asked.error.message}</div>;
  if (!asked.data)
    return (
      <div className="strata-empty quiet">
        {asked.isFetching ? "Reading at the gauges …" : "No gauge yet: bring a list in the Path bay (key 4)."}
      </div>
    );
  const unit = asked.data.unit ?? "";
  const named = (text: string) => (unit ? `${text}, ${unit}` : text);
  const columns = through.data?.columns ?? [];
  return (
    <div className="plot-column" data-testid="gauge-plot">
      <Choices
        className="plot-choice"
        name="What is drawn of the gauges"
        options={[
          { value: "agreement", label: "against measured", disabled: !measured.length },
          { value: "steps", label: "through the steps" },
        ]}
        value={what}
        onChoose={setWanted}
      />
      {what === "agreement" ? (
        <Plot
          lines={[
            { name: "on the body", rows: measured.filter((r) => r.inside), colour: "#2F7486" },
            { name: "outside", rows: measured.filter((r) => !r.inside), colour: "#9E3B23" },
          ]
            .filter((g) => g.rows.length)
            .map(
              (g): Line => ({
                name: g.name,
                x: g.rows.map((r) => r.measured),
                y: g.rows.map((r) => r.value),
                colour: g.colour,
                marks: g.rows.map((r) => r.name),
              }),
            )}
          unitLine
          xTitle={named("measured")}
          yTitle={named("computed")}
          label={asked.data.sentence}
        />
      ) : (
        <Plot
          lines={columns.slice(1).map(
            (c, i): Line => ({
              name: c.name,
              x: columns[0]!.values as number[],
              y: c.values as (number | null)[],
              colour: lineColours[i % lineColours.length]!,
              dash: i >= lineColours.length ? "dash" : undefined,
              steps: true,
            }),
          )}
          here={{ x: contents.data?.steps[step]?.value ?? null, y: (columns[1]?.values[step] as number) ?? null }}
          onStep={(s) => set({ step: s, playing: false })}
          xTitle={columns[0] ? `${columns[0].name}${columns[0].unit ? `, ${columns[0].unit}` : ""}` : ""}
          yTitle={named("at the gauges")}
          label={through.data?.sentence ?? asked.data.sentence}
        />
      )}
    </div>
  );
}

const cells = ["name", "x", "y", "z", "dx", "dy", "dz", "length", "measured", "rosette"] as const;

/** The gauges of the list, each cell to be typed into. */
export function GaugeTable() {
  const { list } = useGaugeList();
  const { change } = useKeeping("gauges");
  const asked = useGauges();
  const view = useView();
  if (!list) return null;
  const rows = asked.data ? asked.data.more.points : [];
  const { points } = list.words;
  const write = (i: number, cell: (typeof cells)[number], text: string) => {
    const word = cell === "name" || cell === "rosette";
    const number = parse(text);
    if (!word && number === null && (text.trim() !== "" || cell === "x" || cell === "y" || cell === "z")) return;
    const next = points.map((p, k) => (k === i ? { ...p, [cell]: word ? text.trim() : number } : p));
    change.mutate({ id: list.id, words: { points: next } });
  };
  return (
    <div className="scroll-table gauge-table" data-testid="gauge-table">
      <table className="figures">
        <thead>
          <tr>
            <th>name</th>
            <th>value {asked.data?.unit}</th>
            <th>measured {list.words.unit ?? asked.data?.unit}</th>
            <th>off</th>
            <th>where</th>
            <th>x</th>
            <th>y</th>
            <th>z</th>
            <th>dx</th>
            <th>dy</th>
            <th>dz</th>
            <th>length</th>
            <th>rosette</th>
            <th aria-label="Remove" />
          </tr>
        </thead>
        <tbody>
          {points.map((p, i) => {
            const r = rows[i];
            const cell = (name: (typeof cells)[number]) => (
              <Cell key={name} name={`${name} of ${p.name}`} value={p[name] ?? ""} onSet={(t) => write(i, name, t)} />
            );
            return (
              <tr key={i} className={r && !r.inside ? "gauge-out" : ""}>
                {cell("name")}
                <td>
                  <button
                    type="button"
                    className="link"
                    onClick={() => r && view.goTo?.(r.at as [number, number, number])}
                  >
                    {r ? figure(r.value) : "…"}
                  </button>
                </td>
                {cell("measured")}
                <td>{r?.share == null ? "" : `${figure(100 * r.share, 2)} %`}</td>
                <td title={r ? `element ${r.element}, ${r.part}` : ""}>
                  {r?.where === "outside" ? `${figure(r.distance, 3)} outside` : r?.where}
                </td>
                {(["x", "y", "z", "dx", "dy", "dz", "length", "rosette"] as const).map(cell)}
                <td>
                  <button
                    type="button"
                    className="icon"
                    aria-label={`Remove ${p.name}`}
                    onClick={() => change.mutate({ id: list.id, words: { points: points.filter((_, k) => k !== i) } })}
                  >
                    <X size={12} />
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <button
        type="button"
        className="ghost"
        onClick={() =>
          change.mutate({
            id: list.id,
            words: { points: [...points, { name: `G${points.length + 1}`, x: 0, y: 0, z: 0, rosette: "" }] },
          })
        }
      >
        Add a row
      </button>
    </div>
  );
}

function Cell({ name, value, onSet }: { name: string; value: string | number; onSet: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  const shown = typeof value === "number" ? String(Number(value.toPrecision(7))) : value;
  const finish = () => {
    if (text !== null && text.trim() !== shown) onSet(text);
    setText(null);
  };
  return (
    <td>
      <input
        className="cell"
        aria-label={name}
        value={text ?? shown}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => e.key === "Enter" && finish()}
      />
    </td>
  );
}
