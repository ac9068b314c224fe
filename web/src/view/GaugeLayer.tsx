import { useEffect, useRef } from "react";
import { shapeScale, useBench } from "../bench/store";
import { type GaugeRow, useGauges } from "../lines/gauges";
import { figure } from "../reading/format";
import { useView } from "./handle";
import { placeLabels } from "./labels";
import { pixelOf } from "./pinned";

/** The gauges of the list in view, each with its value; a ring and a word where one lies outside the body. */
export function GaugeLayer({ moves }: { moves: boolean }) {
  const { bay, drawers, tab, strata } = useBench("bay", "drawers", "tab", "strata");
  const wanted = (bay === "path" && drawers.path === "gauges") || (strata && tab === "gauges");
  const asked = useGauges(wanted);
  if (!wanted || !asked.data || asked.error) return null;
  return <Gauges rows={asked.data.more.points} unit={asked.data.unit ?? ""} moves={moves} />;
}

function Gauges({ rows, unit, moves }: { rows: GaugeRow[]; unit: string; moves: boolean }) {
  const view = useView();
  const exaggeration = useBench(shapeScale);
  const layer = useRef<HTMLDivElement>(null);
  const leaders = useRef<SVGPathElement>(null);
  useEffect(() => {
    const stop = view.onFrame((frame) => {
      const marks = [...(layer.current?.querySelectorAll<HTMLElement>(".gauge-mark") ?? [])];
      const labels = [...(layer.current?.querySelectorAll<HTMLElement>(".gauge-label") ?? [])];
      const pixels = rows.map(({ at, moved }) => pixelOf({ xyz: at, moved }, moves ? exaggeration : 0, frame));
      const placed = placeLabels(
        pixels,
        labels.map((l) => ({ width: l.offsetWidth, height: l.offsetHeight })),
        frame.width,
        frame.height,
        [...view.flags.values()].flat(),
      );
      let lines = "";
      placed.forEach((p, i) => {
        const pixel = pixels[i]!;
        if (marks[i]) marks[i]!.style.transform = `translate(${pixel.x}px, ${pixel.y}px)`;
        const label = labels[i];
        if (!label) return;
        label.style.transform = `translate(${p.x}px, ${p.y}px)`;
        const end = p.x > pixel.x ? p.x : p.x + label.offsetWidth;
        lines += `M${pixel.x.toFixed(1)},${pixel.y.toFixed(1)}L${end.toFixed(1)},${(p.y + label.offsetHeight / 2).toFixed(1)}`;
      });
      leaders.current?.setAttribute("d", lines);
    });
    view.redraw?.();
    return () => stop();
  }, [rows, moves, exaggeration, view]);
  return (
    <div className="gauge-layer" ref={layer} data-testid="gauge-layer">
      <svg aria-hidden="true">
        <path ref={leaders} />
      </svg>
      {rows.map((r, i) => (
        <i className={`gauge-mark ${r.inside ? "" : "gauge-out"}`} key={`${r.name} ${i}`} />
      ))}
      {rows.map((r, i) => (
        <span className={`gauge-label fig ${r.inside ? "" : "gauge-out"}`} key={`${r.name} ${i}`}>
          {[r.name, figure(r.value), unit].filter(Boolean).join(" ")}
          {r.where === "outside" && `, ${figure(r.distance, 3)} outside`}
        </span>
      ))}
    </div>
  );
}
