import { batlow } from "../theme/colourTables";
import { onPage, useTheme } from "../theme/theme";
import { thin, within } from "./thin";

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
  /** Marked by crosses in place of rings. */
  cross?: boolean;
  /** Against the axis on the right. */
  second?: boolean;
}

/** How a plot is looked at: logarithmic axes, and the window one has zoomed to. */
export interface Look {
  logX: boolean;
  logY: boolean;
  window: Window | null;
  size: { width: number; height: number };
}

export interface Window {
  x: [number, number];
  y: [number, number];
}

export const plain: Look = { logX: false, logY: false, window: null, size: { width: 900, height: 300 } };
/** Lines with fewer points are drawn as they are. */
export const many = 3000;

export interface Props {
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
  /** Runs of the level axis that have a name, drawn as bands under the plot; null: nothing is there. */
  stretches?: { part: string | null; from: number; to: number }[];
  /** Told where on the level axis the pointer is, null when it leaves. */
  onHover?: (x: number | null) => void;
  /** What a picture of it is of, in words under it. */
  caption?: string;
  /** A line from corner to corner where both axes have one value. */
  unitLine?: boolean;
  /** A field of values under the lines, a row of z each y; drawn in the usual colours. */
  field?: { x: number[]; y: number[]; z: number[][]; unit: string };
}

/** Sandstone, slate, clay, moss: bands that stay behind what is drawn over them. */
const strataColours = ["#E2D3B4", "#C9D0D1", "#DDBFA9", "#C5D1BC", "#D9CBE0"];

/** Words as they are, whatever signs are in them. */
const plainly = (words: string) => words.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** Both ends of the line of equal values over what is drawn. */
function cornerToCorner(lines: Line[]) {
  const all = lines.flatMap((l) => [...l.x, ...l.y]).filter((v) => v !== null);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return { x0: low, y0: low, x1: high, y1: high };
}

/** The usual colours from low to high, at even distances. */
const colourScale = () =>
  Array.from({ length: 33 }, (_, k) => {
    const at = 3 * Math.round((k / 32) * (batlow.length / 3 - 1));
    return [k / 32, `rgb(${batlow[at]},${batlow[at + 1]},${batlow[at + 2]})`];
  });

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
  {
    lines,
    xTitle,
    yTitle,
    secondTitle,
    here,
    categories,
    fromZero,
    stretches,
    unitLine,
    caption,
    field,
  }: Omit<Props, "label" | "onStep">,
  legend = false,
  look: Look = plain,
) {
  // A picture for a report is light, whatever the page is.
  const dark = !legend && useTheme.getState().dark;
  const tone = (colour: string) => onPage(colour, dark);
  const data: object[] = lines.map((l) => {
    const { x, y, at } = shown(l, look);
    return l.bars
      ? {
          type: "bar",
          name: l.name,
          x,
          y,
          marker: { color: tone(l.colour) },
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
            marker: {
              color: tone(l.colour),
              size: l.cross ? 8 : 6,
              symbol: l.cross ? "cross-thin-open" : "circle-open",
            },
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
            line: { color: tone(l.colour), width: l.width ?? 1.4, dash: l.dash ?? "solid", simplify: false },
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
      marker: { color: tone("#9E3B23"), size: 11, line: { color: "#fff", width: 1.5 } },
      hoverinfo: "skip",
      showlegend: false,
    });
  }
  if (field) {
    data.unshift({
      type: "heatmap",
      ...{ x: field.x, y: field.y, z: field.z },
      colorscale: colourScale(),
      colorbar: {
        thickness: 12,
        outlinewidth: 0,
        title: { text: field.unit, side: "right", font: { family: face, size: 11, color: tone("#595C58") } },
        tickfont: { family: figures, size: 10.5, color: tone("#23282D") },
      },
      hovertemplate: `%{x:.4g}, %{y:.4g}: %{z:.4g} ${plainly(field.unit)}<extra></extra>`,
    });
  }
  const axis = () => ({
    tickfont: { family: figures, size: 10.5, color: tone("#23282D") },
    gridcolor: tone("#E3DCCD"),
    zerolinecolor: tone("#BDB4A2"),
    linecolor: tone("#BDB4A2"),
    automargin: true,
  });
  const bands = stretches ?? [];
  const names = [...new Set(bands.map((b) => b.part))];
  const shapes: object[] = bands.map((b) => ({
    type: "rect",
    xref: "x",
    yref: "paper",
    x0: b.from,
    x1: b.to,
    y0: 0,
    y1: 0.07,
    line: { color: tone("#BDB4A2"), width: 1 },
    fillcolor: b.part === null ? "rgba(0,0,0,0)" : tone(strataColours[names.indexOf(b.part) % strataColours.length]!),
    opacity: 0.8,
    layer: "below",
  }));
  if (unitLine)
    shapes.push({
      type: "line",
      xref: "x",
      yref: "y",
      ...cornerToCorner(lines),
      line: { color: "#8A8D89", width: 1, dash: "dash" },
      layer: "below",
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
    // The menu of the plot stands in its upper right corner.
    xshift: right ? 4 : -40,
    yshift: 3,
    showarrow: false,
    font: { family: face, size: 11.5, color: tone("#595C58") },
  });
  const layout = {
    margin: { l: 46, r: secondTitle ? 46 : 12, t: legend ? 64 : 24, b: legend && caption ? 66 : 38 },
    paper_bgcolor: legend ? tone("#FBF9F4") : "rgba(0,0,0,0)",
    plot_bgcolor: "rgba(0,0,0,0)",
    xaxis: { ...axis(), ...cross, ...(categories ? { type: "category" } : look.logX ? { type: "log" } : {}) },
    yaxis: { ...axis(), ...cross, ...(look.logY ? { type: "log" } : fromZero ? { rangemode: "tozero" } : {}) },
    ...(secondTitle
      ? {
          yaxis2: {
            ...axis(),
            overlaying: "y",
            side: "right",
            tickmode: "auto",
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
      ...(legend && caption ? [{ ...beside(plainly(caption), false), y: 0, yanchor: "top", yshift: -42 }] : []),
      ...bands.map((b) => ({
        text: b.part ?? "outside",
        xref: "x",
        yref: "paper",
        x: (b.from + b.to) / 2,
        y: 0.035,
        yanchor: "middle",
        showarrow: false,
        font: { family: face, size: 10.5, color: tone("#23282D") },
      })),
    ],
    shapes,
    showlegend: legend,
    legend: { orientation: "h", y: 1.1, yanchor: "bottom", x: 0, font: { family: face, size: 11 } },
    hoverlabel: { font: { family: figures, size: 11 }, bgcolor: tone("#FBF9F4"), bordercolor: tone("#BDB4A2") },
    hovermode: "closest",
    barmode: "group",
    uirevision: `${xTitle}|${yTitle}|${look.logX}|${look.logY}`,
    font: { family: face, color: tone("#23282D") },
  };
  return { data, layout };
}
