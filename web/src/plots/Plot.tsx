import * as Plotly from "plotly.js-cartesian-dist-min";
import { useEffect, useRef } from "react";

export interface Line {
  name: string;
  x: (number | null)[];
  y: (number | null)[];
  colour: string;
  width?: number;
  dash?: string;
  /** Points of this line are steps: a click takes the bench there. */
  steps?: boolean;
  bars?: boolean;
}

interface Props {
  lines: Line[];
  xTitle: string;
  yTitle: string;
  here?: { x: number | null; y: number | null };
  onStep?: (step: number) => void;
  label: string;
  categories?: boolean;
}

const face = "Instrument Sans Variable, sans-serif";
const figures = "Spline Sans Mono, monospace";

export function figureOf({ lines, xTitle, yTitle, here, categories }: Omit<Props, "label" | "onStep">, legend = false) {
  const data: object[] = lines.map((l) =>
    l.bars
      ? {
          type: "bar",
          name: l.name,
          x: l.x,
          y: l.y,
          marker: { color: l.colour },
          hovertemplate: `%{y:.4g}<extra>${l.name}</extra>`,
        }
      : {
          type: "scatter",
          mode: "lines",
          name: l.name,
          x: l.x,
          y: l.y,
          line: { color: l.colour, width: l.width ?? 1.4, dash: l.dash ?? "solid" },
          hovertemplate: `%{x:.4g}, %{y:.4g}<extra>${l.name}</extra>`,
        },
  );
  if (here && here.x !== null && here.y !== null) {
    data.push({
      type: "scatter",
      mode: "markers",
      name: "step in view",
      x: [here.x],
      y: [here.y],
      marker: { color: "#9E3B23", size: 11, line: { color: "#fff", width: 1.5 } },
      hoverinfo: "skip",
      showlegend: false,
    });
  }
  const axis = (title: string) => ({
    title: { text: title, font: { family: face, size: 11.5, color: "#595C58" }, standoff: 6 },
    tickfont: { family: figures, size: 10.5, color: "#23282D" },
    gridcolor: "#E3DCCD",
    zerolinecolor: "#BDB4A2",
    linecolor: "#BDB4A2",
    automargin: true,
  });
  const layout = {
    margin: { l: 46, r: 12, t: legend ? 64 : 24, b: 38 },
    paper_bgcolor: legend ? "#FBF9F4" : "rgba(0,0,0,0)",
    plot_bgcolor: "rgba(0,0,0,0)",
    xaxis: { ...axis(xTitle), ...(categories ? { type: "category" } : {}) },
    yaxis: { ...axis("") },
    // The name of the upright axis stands above the plot, level, so that a long one is never cut off.
    annotations: [
      {
        text: yTitle,
        xref: "paper",
        yref: "paper",
        x: 0,
        y: 1,
        xanchor: "left",
        yanchor: "bottom",
        xshift: -40,
        yshift: 3,
        showarrow: false,
        font: { family: face, size: 11.5, color: "#595C58" },
      },
    ],
    showlegend: legend,
    legend: { orientation: "h", y: 1.1, yanchor: "bottom", x: 0, font: { family: face, size: 11 } },
    hoverlabel: { font: { family: figures, size: 11 }, bgcolor: "#FBF9F4", bordercolor: "#BDB4A2" },
    hovermode: "closest",
    barmode: "group",
    uirevision: `${xTitle}|${yTitle}`,
    font: { family: face, color: "#23282D" },
  };
  return { data, layout };
}

/** A plot linked to the bench: the step in view is marked on it, and a click on a step's point goes there. */
export function Plot(props: Props) {
  const box = useRef<HTMLDivElement>(null);
  const { onStep, lines } = props;
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const { data, layout } = figureOf(props);
    let stopped = false;
    void Plotly.react(element, data, layout, {
      displayModeBar: false,
      responsive: true,
      scrollZoom: true,
      doubleClick: "reset",
    }).then((plot) => {
      if (stopped) return;
      plot.removeAllListeners("plotly_click");
      plot.on("plotly_click", (e) => {
        const point = e.points.find((p) => lines[p.curveNumber]?.steps);
        if (point && onStep) onStep(point.pointNumber);
      });
    });
    return () => {
      stopped = true;
    };
  });
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => Plotly.Plots.resize(element));
    watch.observe(element);
    return () => {
      watch.disconnect();
      Plotly.purge(element);
    };
  }, []);
  return <div className="plot" ref={box} role="img" aria-label={props.label} />;
}

export async function plotPicture(props: Omit<Props, "label" | "onStep">, format: "png" | "svg"): Promise<string> {
  return Plotly.toImage(figureOf(props, true), { format, width: 900, height: 560, scale: format === "png" ? 2 : 1 });
}
