import { type FocusEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import { copyTable, save } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { useTheme } from "../theme/theme";
import { useView } from "../view/handle";
import { figureOf, type Look, many, type Props, plain, type Window } from "./figure";

export type { Line } from "./figure";

const plotly = () => import("plotly.js-cartesian-dist-min");

/** A plot linked to the bench: the step in view is marked on it, and a click on a step's point goes there. */
export function Plot(props: Props) {
  const box = useRef<HTMLDivElement>(null);
  const view = useView();
  const [look, setLook] = useState({ logX: false, logY: false });
  const [window, setWindow] = useState<Window | null>(null);
  const [failed, setFailed] = useState(false);
  const { onStep, onHover, lines } = props;
  const now = useRef({ lines, onStep, onHover });
  now.current = { lines, onStep, onHover };
  useTheme((s) => s.dark);
  const long = lines.some((l) => l.x.length >= many);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const size = { width: element.clientWidth, height: element.clientHeight };
    const { data, layout } = figureOf(props, false, { ...look, window: long ? window : null, size });
    let stopped = false;
    const draw = async () => {
      // The plotting library is the largest piece of the bench: it comes once the model stands.
      await view.drawn();
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
      plot.removeAllListeners("plotly_hover");
      plot.removeAllListeners("plotly_unhover");
      if (now.current.onHover) {
        plot.on("plotly_hover", (e) => now.current.onHover?.(e.points[0]?.x ?? null));
        plot.on("plotly_unhover", () => now.current.onHover?.(null));
      }
      plot.removeAllListeners("plotly_relayout");
      if (long)
        plot.on("plotly_relayout", () => {
          const { xaxis, yaxis } = plot._fullLayout;
          setWindow(xaxis.autorange && yaxis.autorange ? null : { x: [...xaxis.range], y: [...yaxis.range] });
        });
    };
    draw().then(
      () => !stopped && setFailed(false),
      () => !stopped && setFailed(true),
    );
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
      if (drawn()) plotly().then(({ Plots }) => drawn() && element.isConnected && Plots.resize(element), nothing);
    });
    watch.observe(element);
    return () => {
      watch.disconnect();
      if (drawn()) plotly().then(({ purge }) => purge(element), nothing);
    };
  }, []);
  const picture = (format: "png" | "svg") =>
    plotPicture(props, format, { ...plain, ...look }).then((address) => save(address, props.label, format), tell);
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
      {failed && (
        <div className="strata-empty quiet" role="alert">
          The plot could not be drawn: what draws it did not come. See whether the service is still running.
        </div>
      )}
      <div className="plot" ref={box} role="img" aria-label={props.label} />
    </div>
  );
}

/** Where there is nothing that draws, there is nothing to put away. */
const nothing = () => undefined;

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
