import { useEffect, useRef } from "react";
import * as THREE from "three";
import { useView } from "./handle";

const axes: [string, THREE.Vector3][] = [
  ["x", new THREE.Vector3(1, 0, 0)],
  ["y", new THREE.Vector3(0, 1, 0)],
  ["z", new THREE.Vector3(0, 0, 1)],
];

/** The axes as a small survey tripod: three legs from one head, lettered. */
export function Tripod() {
  const view = useView();
  const group = useRef<SVGGElement>(null);
  useEffect(
    () =>
      view.onFrame(({ camera }) => {
        const turn = camera.matrixWorldInverse;
        axes.forEach(([name, axis], i) => {
          const leg = group.current?.children[i] as SVGGElement | undefined;
          if (!leg) return;
          const v = axis.clone().transformDirection(turn);
          const line = leg.children[0]!;
          const text = leg.children[1]!;
          line.setAttribute("x2", String(24 * v.x));
          line.setAttribute("y2", String(-24 * v.y));
          text.setAttribute("x", String(33 * v.x));
          text.setAttribute("y", String(-33 * v.y + 4));
          leg.setAttribute("opacity", v.z < -0.2 ? "0.45" : "1");
          leg.setAttribute("data-axis", name);
        });
      }),
    [view],
  );
  return (
    <svg className="tripod" width="84" height="84" viewBox="-42 -42 84 84" aria-hidden="true">
      <g ref={group}>
        {axes.map(([name]) => (
          <g key={name}>
            <line x1="0" y1="0" x2="0" y2="0" />
            <text textAnchor="middle">{name}</text>
          </g>
        ))}
      </g>
      <circle r="3" />
    </svg>
  );
}
