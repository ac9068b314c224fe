import type { AnswerTo } from "../api/asking";
import { useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { useStudy } from "../lines/compare";
import { Plot } from "../plots/Plot";
import type { StrataTab } from "../plots/tabs";
import { figure } from "../reading/format";

function useSeveral(): boolean {
  const review = useReview();
  return useBench((s) => s.bay) === "compare" && (review.data?.results.length ?? 0) > 1;
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

/** A count as it is, a quantity by its digits. */
const told = (value: string | number | null | undefined) =>
  Number.isInteger(value) ? String(value) : figure(value as number | null);

function StudyTable() {
  const asked = useStudy();
  if (!asked.data || asked.error) return null;
  const [names, ...columns] = asked.data.columns;
  return (
    <div className="scroll-table" data-testid="study-table">
      <table className="figures">
        <thead>
          <tr>
            <th>mesh</th>
            {columns.map((c) => (
              <th key={c.name}>
                {c.name} {c.unit}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names!.values.map((n, i) => (
            <tr key={String(n)}>
              <td className="word">{n}</td>
              {columns.map((c) => (
                <td key={c.name}>{told(c.values[i])}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

export const comparePlots: StrataTab[] = [
  {
    name: "study",
    label: "Refinement",
    title: "The value over the size of elements",
    plot: () => <StudyPlot />,
    table: () => <StudyTable />,
    useThere: useSeveral,
  },
];
