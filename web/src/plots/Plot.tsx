import { type FocusEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import { copyTable, save } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { view } from "../view/handle";
import { thin, within } from "./thin";

/** The plotting library is the largest piece of the bench: it comes once the model stands. */
const plotly = () => view.drawn().then(() => import("plotly.js-cartesian-dist-min"));

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
  /** Points that are marked and not joined, with what each says. */
  marks?: string[];
  /** Against the axis on the right. */
  second?: boolean;
}

/** How a plot is looked at: logarithmic axes, and the window one has zoomed to. */
interface Look {
  logX: boolean;
  logY: boolean;
  window: Window | null;
  size: { width: number; height: number };
}

interface Window {
  x: [number, number];
  y: [number, number];
}

const plain: Look = { logX: false, logY: false, window: null, size: { width: 900, height: 300 } };
/** Lines with fewer points are drawn as they are. */
const many = 3000;

interface Props {
  lines: Line[];
  xTitle: string;
  yTitle: string;
  secondTitle?: string;
  here?: { x: number | null; y: number | null };
  onStep?: (step: number) => void;
  label: string;
  categories?: boolean;
  /** The upright axis begins at nothing: what is drawn is a size, not a change. */
  fromZero?: boolean;
}

const face = "Instrument Sans Variable, sans-serif";
const figures = "Spline Sans Mono, monospace";

/** What of a long line is drawn: points one could not tell apart are left out, those of a zoomed window are looked at closer. */
function shown(line: Line, look: Look): { x: (number | null)[]; y: (number | null)[]; at: number[] | null } {
  if (line.bars || line.x.length < many) return { x: line.x, y: line.y, at: null };
  const turn = (values: (number | null)[], log: boolean) =>
    log ? values.map((v) => (v !== null && v > 0 ? Math.log10(v) : null)) : values;
  let [x, y] = [turn(line.x, look.logX), turn(line.y, look.logY)];
  let at: number[] | null = null;
  if (look.window && !line.second) {
    at = within(x, y, look.window);
    [x, y] = [at.map((i) => x[i]!), at.map((i) => y[i]!)];
  }
  const unit = (values: (number | null)[], over: number) => {
    let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (const v of values)
      if (v !== null) {
        low = Math.min(low, v);
        high = Math.max(high, v);
      }
    return high > low ? (high - low) / over : 1;
  };
  const across = look.window ? (look.window.x[1] - look.window.x[0]) / look.size.width : unit(x, look.size.width);
  const up =
    look.window && !line.second ? (look.window.y[1] - look.window.y[0]) / look.size.height : unit(y, look.size.height);
  const kept = thin(x, y, across, up);
  const places = at ? kept.map((i) => at[i]!) : kept;
  return { x: places.map((i) => line.x[i]!), y: places.map((i) => line.y[i]!), at: places };
}

export function figureOf(
  { lines, xTitle, yTitle, secondTitle, here, categories, fromZero }: Omit<Props, "label" | "onStep">,
  legend = false,
  look: Look = plain,
) {
  const data: object[] = lines.map((l) => {
    const { x, y, at } = shown(l, look);
    return l.bars
      ? {
          type: "bar",
          name: l.name,
          x,
          y,
          marker: { color: l.colour },
          hovertemplate: `%{y:.4g}<extra>${l.name}</extra>`,
        }
      : l.marks
        ? {
            type: "scatter",
            mode: "markers",
            name: l.name,
            x,
            y,
            text: l.marks,
            marker: { color: l.colour, size: 6, symbol: "circle-open" },
            hovertemplate: `%{text}: %{x:.4g}, %{y:.4g}<extra></extra>`,
          }
        : {
            type: "scatter",
            mode: "lines",
            name: l.name,
            x,
            y,
            ...(at ? { customdata: at } : {}),
            ...(l.second ? { yaxis: "y2" } : {}),
            line: { color: l.colour, width: l.width ?? 1.4, dash: l.dash ?? "solid", simplify: false },
            hovertemplate: `%{x:.4g}, %{y:.4g}<extra>${l.name}</extra>`,
          };
  });
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
  const axis = () => ({
    tickfont: { family: figures, size: 10.5, color: "#23282D" },
    gridcolor: "#E3DCCD",
    zerolinecolor: "#BDB4A2",
    linecolor: "#BDB4A2",
    automargin: true,
  });
  // The crosshair: lines through the pointer, over the whole plot.
  const cross = {
    showspikes: true,
    spikemode: "across",
    spikesnap: "cursor",
    spikethickness: 1,
    spikecolor: "#8A8D89",
    spikedash: "dot",
  };
  const beside = (text: string, right: boolean) => ({
    text,
    xref: "paper",
    yref: "paper",
    x: right ? 1 : 0,
    y: 1,
    xanchor: right ? "right" : "left",
    yanchor: "bottom",
    xshift: right ? 40 : -40,
    yshift: 3,
    showarrow: false,
    font: { family: face, size: 11.5, color: "#595C58" },
  });
  const layout = {
    margin: { l: 46, r: secondTitle ? 46 : 12, t: legend ? 64 : 24, b: 38 },
    paper_bgcolor: legend ? "#FBF9F4" : "rgba(0,0,0,0)",
    plot_bgcolor: "rgba(0,0,0,0)",
    xaxis: { ...axis(), ...cross, ...(categories ? { type: "category" } : look.logX ? { type: "log" } : {}) },
    yaxis: { ...axis(), ...cross, ...(look.logY ? { type: "log" } : fromZero ? { rangemode: "tozero" } : {}) },
    ...(secondTitle
      ? {
          yaxis2: {
            ...axis(),
            overlaying: "y",
            side: "right",
            showgrid: false,
            zeroline: false,
            ...(look.logY ? { type: "log" } : {}),
          },
        }
      : {}),
    // The name of the upright axis stands above the plot, level, so that a long one is never cut off.
    // That of the level axis stands left too.
    annotations: [
      beside(yTitle, false),
      ...(secondTitle ? [beside(secondTitle, true)] : []),
      { ...beside(xTitle, false), y: 0, yanchor: "top", yshift: -20 },
    ],
    showlegend: legend,
    legend: { orientation: "h", y: 1.1, yanchor: "bottom", x: 0, font: { family: face, size: 11 } },
    hoverlabel: { font: { family: figures, size: 11 }, bgcolor: "#FBF9F4", bordercolor: "#BDB4A2" },
    hovermode: "closest",
    barmode: "group",
    uirevision: `${xTitle}|${yTitle}|${look.logX}|${look.logY}`,
    font: { family: face, color: "#23282D" },
  };
  return { data, layout };
}

/** A plot linked to the bench: the step in view is marked on it, and a click on a step's point goes there. */
export function Plot(props: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [look, setLook] = useState({ logX: false, logY: false });
  const [window, setWindow] = useState<Window | null>(null);
  const { onStep, lines } = props;
  const now = useRef({ lines, onStep });
  now.current = { lines, onStep };
  const long = lines.some((l) => l.x.length >= many);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const size = { width: element.clientWidth, height: element.clientHeight };
    const { data, layout } = figureOf(props, false, { ...look, window: long ? window : null, size });
    let stopped = false;
    const draw = async () => {
      const { react } = await plotly();
      if (stopped) return;
      const plot = await react(element, data, layout, {
        displayModeBar: false,
        responsive: true,
        scrollZoom: true,
        doubleClick: "reset",
      });
      if (stopped) return;
      plot.removeAllListeners("plotly_click");
      plot.on("plotly_click", (e) => {
        const point = e.points.find((p) => now.current.lines[p.curveNumber]?.steps);
        if (point && now.current.onStep) now.current.onStep(point.customdata ?? point.pointNumber);
      });
      plot.removeAllListeners("plotly_relayout");
      if (long)
        plot.on("plotly_relayout", () => {
          const { xaxis, yaxis } = plot._fullLayout;
          setWindow(xaxis.autorange && yaxis.autorange ? null : { x: [...xaxis.range], y: [...yaxis.range] });
        });
    };
    void draw();
    return () => {
      stopped = true;
    };
  });
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    // Only what is drawn can follow the size of its box, or be put away. By then it may have left the page.
    const drawn = () => element.classList.contains("js-plotly-plot");
    const watch = new ResizeObserver(() => {
      if (drawn()) void plotly().then(({ Plots }) => drawn() && element.isConnected && Plots.resize(element));
    });
    watch.observe(element);
    return () => {
      watch.disconnect();
      if (drawn()) void plotly().then(({ purge }) => purge(element));
    };
  }, []);
  const picture = (format: "png" | "svg") =>
    plotPicture(props, format, { ...plain, ...look }).then(
      (address) => save(address, `${props.label}.${format}`),
      tell,
    );
  const bars = lines.some((l) => l.bars);
  return (
    <div className="plot-box">
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: a key on a button within is a click too */}
      <details className="plot-menu" onBlur={leave} onClick={chosen}>
        <summary aria-label="Axes, picture, points" title="Axes, picture, points">
          ⋯
        </summary>
        {!bars && (
          <>
            <button
              type="button"
              className={look.logX ? "on" : ""}
              aria-pressed={look.logX}
              title="What is zero or below is not drawn"
              onClick={() => setLook({ ...look, logX: !look.logX })}
            >
              logarithmic across
            </button>
            <button
              type="button"
              className={look.logY ? "on" : ""}
              aria-pressed={look.logY}
              title="What is zero or below is not drawn"
              onClick={() => setLook({ ...look, logY: !look.logY })}
            >
              logarithmic upwards
            </button>
          </>
        )}
        <button type="button" title="Picture of the plot, 1800 x 1120" onClick={() => void picture("png")}>
          picture, PNG
        </button>
        <button type="button" title="Drawing of the plot" onClick={() => void picture("svg")}>
          drawing, SVG
        </button>
        <button type="button" title="The points, to the clipboard" onClick={() => void copyPoints(props)}>
          points to the clipboard
        </button>
      </details>
      <div className="plot" ref={box} role="img" aria-label={props.label} />
    </div>
  );
}

/** An open menu closes when one goes elsewhere. */
const leave = (e: FocusEvent<HTMLDetailsElement>) => {
  if (!e.currentTarget.contains(e.relatedTarget)) e.currentTarget.open = false;
};

/** So it does once something of it is chosen. */
const chosen = (e: MouseEvent<HTMLDetailsElement>) => {
  if (e.target instanceof HTMLButtonElement) e.currentTarget.open = false;
};

/** Puts every line's points on the clipboard, two columns a line, whatever is left out of the drawing. */
function copyPoints({ lines, xTitle, yTitle }: Props): Promise<void> {
  const split = (title: string) => {
    const at = title.lastIndexOf(", ");
    return at < 0 ? [title, ""] : [title.slice(0, at), title.slice(at + 2)];
  };
  const [xName, xUnit] = split(xTitle);
  const yUnit = split(yTitle)[1]!;
  const rows = Math.max(...lines.map((l) => l.x.length));
  return copyTable(
    lines.flatMap((l) => [xName!, l.name]),
    lines.flatMap((l) => [xUnit!, l.second ? "" : yUnit]),
    Array.from({ length: rows }, (_, i) => lines.flatMap((l) => [l.x[i] ?? null, l.y[i] ?? null])),
  );
}

export async function plotPicture(
  props: Omit<Props, "label" | "onStep">,
  format: "png" | "svg",
  look: Look = plain,
): Promise<string> {
  const { toImage } = await plotly();
  const size = { width: 900, height: 560 };
  return toImage(figureOf(props, true, { ...look, window: null, size }), {
    format,
    ...size,
    scale: format === "png" ? 2 : 1,
  });
}
