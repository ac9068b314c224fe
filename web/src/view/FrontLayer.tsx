import { useEffect, useRef } from "react";
import * as THREE from "three";
import type { AnswerTo } from "../api/asking";
import { useBench } from "../bench/store";
import { useFront } from "../lines/front";
import { useView } from "./handle";

/** The fronts of all steps on the model, like contour lines of a map: every fifth one stronger and written on, the one in view in
 * iron. They lie where the body is undeformed. */
export function FrontLayer() {
  const { tab, strata } = useBench("tab", "strata");
  const asked = useFront();
  return tab === "front" && strata && asked.data && !asked.error ? <Fronts answer={asked.data} /> : null;
}

function Fronts({ answer }: { answer: AnswerTo<"front"> }) {
  const view = useView();
  const step = useBench((s) => s.step);
  const group = useRef<SVGSVGElement>(null);
  const { fronts } = answer.more;
  useEffect(() => {
    const at = new THREE.Vector3();
    const stop = view.onFrame(({ camera, width, height }) => {
      const [lines, labels] = ["path", "text"].map((of) => [...(group.current?.querySelectorAll(of) ?? [])]);
      const pixel = (ends: number[], i: number) => {
        at.set(ends[i]!, ends[i + 1]!, ends[i + 2]!).project(camera);
        return [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height] as const;
      };
      fronts.forEach(({ ends }, k) => {
        let text = "";
        let top: readonly [number, number] | null = null;
        for (let i = 0; i + 5 < ends.length; i += 6) {
          const [a, b] = [pixel(ends, i), pixel(ends, i + 3)];
          text += `M${a[0].toFixed(1)},${a[1].toFixed(1)}L${b[0].toFixed(1)},${b[1].toFixed(1)}`;
          for (const p of [a, b]) if (!top || p[1] < top[1]) top = p;
        }
        lines![k]?.setAttribute("d", text);
        labels![k]?.setAttribute("x", String((top?.[0] ?? -100) + 4));
        labels![k]?.setAttribute("y", String((top?.[1] ?? -100) - 4));
      });
    });
    view.redraw?.();
    return stop;
  }, [view, fronts]);
  return (
    <svg className="path-layer front-layer" aria-hidden="true" data-testid="front-layer" ref={group}>
      {fronts.map((f, k) => (
        <g key={f.step} className={f.step === step ? "in-view" : k % 5 === 0 ? "strong" : ""}>
          <path />
          <text>{f.ends.length > 0 && (f.step === step || k % 5 === 0) ? f.label : ""}</text>
        </g>
      ))}
    </svg>
  );
}
