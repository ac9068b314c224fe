import type { AnswerTo } from "../api/asking";
import { useContents, useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerTable, told } from "../controls/AnswerTable";
import { useGoverning, useSideBySide, useStudy, useTableInView } from "../lines/compare";
import { Plot } from "../plots/Plot";
import type { StrataTab } from "../plots/tabs";
import { figure, percent } from "../reading/format";

function useSeveral(): boolean {
  const review = useReview();
  return useBench((s) => s.bay) === "compare" && (review.data?.results.length ?? 0) > 1;
}

function useCases(): boolean {
  const { bay, result } = useBench("bay", "result");
  return (useContents(result).data?.steps.length ?? 0) > 1 && bay === "compare";
}

/** The value over the size of elements, down to none: the extrapolated value a level line between its bounds. */
export function studyFigure(answer: AnswerTo<"converge">) {
  const { sizes, values, results, extrapolated, band } = answer.more;
  const unit = answer.columns[1]?.unit ?? "";
  const most = Math.max(...sizes);
  const level = (name: string, value: number, dash?: string, width = 1.4) => ({
    name,
    x: [0, most],
    y: [value, value],
    colour: "#4F7343",
    dash,
    width,
  });
  const bounds =
    extrapolated === null || band === null
      ? []
      : [
          level("extrapolated", extrapolated),
          level("its upper bound", extrapolated + band, "dot", 1),
          level("its lower bound", extrapolated - band, "dot", 1),
        ];
  return {
    lines: [
      { name: "value", x: sizes, y: values, colour: "#23282D" },
      {
        name: "meshes",
        x: sizes,
        y: values,
        colour: "#9E3B23",
        marks: results.map((r, i) => `${r}: ${figure(values[i] ?? null)} ${answer.unit ?? ""}`),
      },
      ...bounds,
    ],
    xTitle: `size of elements, ${unit || "unit not stated"}`,
    yTitle: `${answer.sentence.split(",")[0]}, ${answer.unit || "1"}`,
  };
}

function StudyPlot() {
  const asked = useStudy();
  if (!asked.data || asked.error)
    return <div className="strata-empty quiet">{asked.error?.message ?? "Each mesh is asked …"}</div>;
  return (
    <div className="plot-column" data-testid="study-plot">
      <Plot {...studyFigure(asked.data)} label={asked.data.sentence} />
    </div>
  );
}

function StudyTable() {
  const asked = useStudy();
  if (!asked.data || asked.error) return null;
  const [names, ...columns] = asked.data.columns;
  return <AnswerTable columns={[{ ...names!, name: "mesh" }, ...columns]} testid="study-table" />;
}

function GoverningTable() {
  const asked = useGoverning();
  if (!asked.data || asked.error)
    return <div className="strata-empty quiet">{asked.error?.message ?? "The cases are gone through …"}</div>;
  return <AnswerTable columns={asked.data.columns} testid="governing-table" />;
}

/** How many elements each case governs. */
function GoverningPlot() {
  const asked = useGoverning();
  if (!asked.data || asked.error) return <GoverningTable />;
  const { cases } = asked.data.more;
  const all = cases.reduce((sum, c) => sum + c.elements, 0) || 1;
  return (
    <div className="plot-column" data-testid="governing-plot">
      <div className="small-line">Share of the elements each case governs</div>
      <ul className="share-bars">
        {cases.map((c) => (
          <li key={c.name}>
            <span className="name" title={c.name}>
              {c.name}
            </span>
            <span className="bar" style={{ width: `${(100 * c.elements) / all}%` }} />
            <span className="fig">{c.elements}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The table of several results; the one that stands apart is marked by a word as well. */
function SideBySideTable() {
  const asked = useSideBySide();
  if (!asked.data || asked.error)
    return <div className="strata-empty quiet">{asked.error?.message ?? "Each result is asked …"}</div>;
  const { results, rows, costs } = asked.data.more;
  return (
    <div className="scroll-table" data-testid="side-by-side">
      <table className="figures">
        <thead>
          <tr>
            <th>quantity</th>
            {results.map((r) => (
              <th key={r}>{r}</th>
            ))}
            <th>spread</th>
            <th>stands apart</th>
          </tr>
        </thead>
        <tbody>
          {[...rows, ...costs].map((row, k) => (
            <tr key={row.name} className={k === rows.length ? "begins" : ""} title={row.sentence}>
              <td className="word">
                {row.name} {row.unit && <span className="quiet">{row.unit}</span>}
              </td>
              {row.values.map((v, i) => (
                <td
                  key={results[i]}
                  className={row.odd === i ? "apart" : ""}
                  title={row.refused.find((w) => w.startsWith(`${results[i]}: `)) ?? row.places[i]}
                >
                  {v === null ? "no value" : told(v)}
                </td>
              ))}
              <td>{row.spread === null ? "" : percent(row.spread, 2)}</td>
              <td className="word">{row.odd === null ? "" : results[row.odd]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {asked.data.caveats.map((c) => (
        <div className="small-line quiet" key={c}>
          {c}
        </div>
      ))}
    </div>
  );
}

function useTableThere(): boolean {
  const { shown } = useTableInView();
  return useBench((s) => s.bay) === "compare" && shown !== undefined;
}

export const comparePlots: StrataTab[] = [
  {
    name: "side by side",
    label: "Results side by side",
    title: "The same questions asked of several results",
    table: () => <SideBySideTable />,
    useThere: useTableThere,
  },
  {
    name: "governing",
    label: "Governing case",
    title: "Which step or combination governs",
    plot: () => <GoverningPlot />,
    table: () => <GoverningTable />,
    useThere: useCases,
  },
  {
    name: "study",
    label: "Refinement",
    title: "The value over the size of elements",
    plot: () => <StudyPlot />,
    table: () => <StudyTable />,
    useThere: useSeveral,
  },
];
