import { useEffect, useRef } from "react";
import * as THREE from "three";
import { shapeScale, useBench } from "../bench/store";
import { columnOf, type DrawnProfile, placesOf, useProfiles } from "../lines/profiles";
import { figure, roundUp } from "../reading/format";
import { useView } from "./handle";

/** The lines whose profiles are drawn: pegs at their ends, chainage ticks, and where the pointer on the plot is. */
export function PathLayer({ moves }: { moves: boolean }) {
  const { bay, tab, strata } = useBench("bay", "tab", "strata");
  const wanted = bay === "path" || (strata && tab === "profile");
  const profiles = useProfiles(wanted);
  if (!wanted) return null;
  return (
    <svg className="path-layer" aria-hidden="true" data-testid="path-layer">
      {profiles
        .filter((p) => p.answer && !p.held)
        .map((p, i) => (
          <Surveyed key={p.id ?? p.label} profile={p} moves={moves} first={i === 0} />
        ))}
    </svg>
  );
}

/** Distances of the ticks along a line, as a plot would have them. */
function ticksOf(low: number, high: number): number[] {
  const step = roundUp((high - low) / 8);
  if (!(step > 0)) return [];
  const found: number[] = [];
  for (let v = Math.ceil(low / step) * step; v <= high + 1e-9 * step; v += step) found.push(v);
  return found;
}

function Surveyed({ profile, moves, first }: { profile: DrawnProfile; moves: boolean; first: boolean }) {
  const view = useView();
  const { chainage, profile: look } = useBench("chainage", "profile");
  const exaggeration = useBench(shapeScale);
  const group = useRef<SVGGElement>(null);
  const answer = profile.answer!;
  useEffect(() => {
    const places = placesOf(answer, look.shape === "deformed");
    const x = columnOf(answer, 0) as number[];
    const part = columnOf(answer, 2) as unknown as (string | null)[];
    const side = (profile.words as { side?: string }).side;
    const f = moves ? exaggeration : 0;
    const at = new THREE.Vector3();
    const ticks = ticksOf(Math.min(...x), Math.max(...x));
    /** The sample before a distance, and how far on to the next it is. */
    const between = (d: number): [number, number] | null => {
      for (let i = 0; i + 1 < x.length; i++) {
        const [a, b] = [x[i]!, x[i + 1]!];
        if (b > a && d >= a && d <= b) return [i, (d - a) / (b - a)];
      }
      return null;
    };
    const stop = view.onFrame(({ camera, width, height }) => {
      if (!group.current) return;
      const pixel = (i: number): [number, number] => {
        const { xyz, moved } = places[i]!;
        at.set(xyz[0]! + f * moved[0]!, xyz[1]! + f * moved[1]!, xyz[2]! + f * moved[2]!).project(camera);
        return [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height];
      };
      const pixels = places.map((_, i) => pixel(i));
      const place = (d: number): { at: [number, number]; across: [number, number] } | null => {
        const found = between(d);
        if (!found) return null;
        const [i, share] = found;
        const [a, b] = [pixels[i]!, pixels[i + 1]!];
        const size = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
        return {
          at: [a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])],
          across: [-(b[1] - a[1]) / size, (b[0] - a[0]) / size],
        };
      };
      const run = (wanted: boolean) => {
        let text = "";
        for (let i = 0; i + 1 < pixels.length; i++) {
          const inside = part[i] !== null && part[i + 1] !== null;
          if (inside === wanted) text += `M${pixels[i]!.map(round)}L${pixels[i + 1]!.map(round)}`;
        }
        return text;
      };
      const [body, outside, marks, moon, here] = [...group.current.children] as SVGPathElement[];
      body!.setAttribute("d", run(true));
      outside!.setAttribute("d", run(false));
      let text = "";
      for (const d of ticks) {
        const found = place(d);
        if (!found) continue;
        const { at: p, across: n } = found;
        text += `M${round(p[0] - 4 * n[0])},${round(p[1] - 4 * n[1])}L${round(p[0] + 4 * n[0])},${round(p[1] + 4 * n[1])}`;
      }
      for (const end of [pixels[0]!, pixels[pixels.length - 1]!])
        text += `M${round(end[0] - 4)},${round(end[1] - 4)}h8v8h-8Z`;
      marks!.setAttribute("d", text);
      const middle = side ? place((x[0]! + x[x.length - 1]!) / 2) : null;
      moon!.setAttribute("d", middle ? `M${round(middle.at[0] - 7)},${round(middle.at[1])}a7,7 0 0 1 14,0Z` : "");
      const pointed = first && chainage !== null ? place(chainage) : null;
      here!.setAttribute("d", pointed ? circle(pointed.at, 6) : "");
      const label = group.current.querySelector("text");
      if (label) {
        label.setAttribute("x", String(pixels[0]![0] + 8));
        label.setAttribute("y", String(pixels[0]![1] - 8));
      }
    });
    view.redraw?.();
    return () => stop();
  }, [answer, view, exaggeration, moves, look.shape, chainage, first, profile.words]);
  const more = answer.more;
  return (
    <g ref={group} data-testid="path-drawn" data-length={more.length}>
      <path className="path-body" style={{ stroke: profile.colour }} />
      <path className="path-outside" style={{ stroke: profile.colour }} />
      <path className="path-marks" style={{ stroke: profile.colour }} />
      <path className="path-moon" style={{ fill: profile.colour }}>
        <title>Reads one side alone</title>
      </path>
      <path className="path-here" />
      <text>
        {profile.label}
        {first && chainage !== null ? `, ${figure(chainage)}` : ""}
      </text>
    </g>
  );
}

const round = (v: number) => v.toFixed(1);
const circle = ([x, y]: [number, number], r: number) =>
  `M${round(x - r)},${round(y)}a${r},${r} 0 1 0 ${2 * r},0a${r},${r} 0 1 0 ${-2 * r},0Z`;
