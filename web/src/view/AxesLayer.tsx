import { useEffect, useRef } from "react";
import * as THREE from "three";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { useView } from "./handle";
import { overlap } from "./labels";

/** The axes the reading is told in, drawn where they are: the axis of cylindrical ones as a chain line, else three legs. */
export function AxesLayer() {
  const { result, reading } = useBench("result", "reading");
  const contents = useContents(result).data;
  const view = useView();
  const group = useRef<SVGGElement>(null);
  const axes = contents?.axes.find((a) => a.name === reading?.axes);
  const size = contents?.size ?? 1;
  const drawn =
    axes && axes.name !== "global" && axes.kind !== "element" && axes.kind !== "material" ? axes : undefined;
  useEffect(() => {
    if (!drawn) return;
    const origin = new THREE.Vector3(...(drawn.origin as [number, number, number]));
    const third = new THREE.Vector3(...(drawn.third as [number, number, number]));
    const first = new THREE.Vector3(...(drawn.first as [number, number, number]));
    const second = third.clone().cross(first);
    const stop = view.onFrame(({ camera, width, height }) => {
      const at = (p: THREE.Vector3) => {
        const v = p.clone().project(camera);
        return [((v.x + 1) / 2) * width, ((1 - v.y) / 2) * height] as const;
      };
      const long = (direction: THREE.Vector3, length: number) => at(origin.clone().addScaledVector(direction, length));
      const [line, legs, text] = [...(group.current?.children ?? [])];
      if (!line || !legs || !text) return;
      const path = (from: readonly number[], to: readonly number[]) => `M${from.join(" ")}L${to.join(" ")}`;
      const round = drawn.kind !== "cartesian";
      const end = long(third, (round ? 0.6 : 0.16) * size);
      const other = round ? long(third, -0.6 * size) : at(origin);
      line.setAttribute("d", path(other, end));
      const middle = at(origin);
      legs.setAttribute(
        "d",
        drawn.kind === "cylindrical"
          ? ""
          : path(middle, long(first, 0.16 * size)) + path(middle, long(second, 0.16 * size)),
      );
      const inside = ([x, y]: readonly [number, number]) => ({
        x: Math.min(Math.max(x, 40), width - 40),
        y: Math.min(Math.max(y, 20), height - 20),
      });
      // It is named at its end, unless a flag's card stands there.
      const cards = [...view.flags.values()].flat();
      const free = ({ x, y }: { x: number; y: number }) =>
        !cards.some((c) => overlap(c, { x: x - 40, y: y - 12, width: 80, height: 18 }));
      const ends = [end, other].map(inside);
      const { x, y } = ends.find(free) ?? ends[0]!;
      text.setAttribute("x", String(x));
      text.setAttribute("y", String(y));
    });
    view.redraw?.();
    return stop;
  }, [drawn, size, view]);
  if (!drawn) return null;
  return (
    <svg className="axes-layer" data-testid="drawn-axes" role="img" aria-label={`Axes ${drawn.name}`}>
      <g ref={group}>
        <path className={drawn.kind === "cartesian" ? "" : "chain"} />
        <path />
        <text textAnchor="middle">{drawn.kind === "cylindrical" ? `axis of ${drawn.name}` : drawn.name}</text>
      </g>
    </svg>
  );
}
