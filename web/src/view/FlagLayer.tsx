import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import * as THREE from "three";
import { api, ask } from "../api/client";
import { useChange, useFlags, useMeeting, useNodePosition } from "../api/queries";
import { useBench } from "../bench/store";
import { figure, percent } from "../reading/format";
import { view } from "./handle";

/** Flags over the view: each stays at its node on the shape as drawn. */
export function FlagLayer({ moves }: { moves: boolean }) {
  const result = useBench((s) => s.result);
  const flags = useFlags(result);
  return (
    <div className="flag-layer">
      {(flags.data ?? []).map((flag, i) => (
        <Flag key={flag.id} id={flag.id} node={flag.node} number={i + 1} moves={moves} />
      ))}
    </div>
  );
}

function Flag({ id, node, number, moves }: { id: number; node: number; number: number; moves: boolean }) {
  const { result, step, exaggeration } = useBench();
  const told = useMeeting(node);
  const place = useNodePosition(result, node, step);
  const card = useRef<HTMLDivElement>(null);
  const line = useRef<SVGLineElement>(null);
  const dot = useRef<SVGCircleElement>(null);
  const remove = useChange(() => ask(api.DELETE("/api/flags/{flag}", { params: { path: { flag: id } } })));
  useEffect(() => {
    const at = new THREE.Vector3();
    const stop = view.onFrame(({ camera, width, height }) => {
      if (!place.data || !card.current) return;
      const [x, y, z] = place.data.xyz as [number, number, number];
      const [u, v, w] = place.data.displacement as [number, number, number];
      const f = moves ? exaggeration : 0;
      at.set(x + f * u, y + f * v, z + f * w).project(camera);
      const px = ((at.x + 1) / 2) * width;
      const py = ((1 - at.y) / 2) * height;
      const w0 = card.current.offsetWidth;
      const h0 = card.current.offsetHeight;
      // The card stands on the side with more room, a little away from the place.
      const left = px > width / 2 ? Math.min(px + 46, width - w0 - 8) : Math.max(px - 46 - w0, 8);
      const top = Math.min(Math.max(py - h0 - 34 - 20 * ((number - 1) % 3), 8), height - h0 - 8);
      card.current.style.transform = `translate(${left}px, ${top}px)`;
      card.current.style.visibility = "visible";
      const ex = Math.min(Math.max(px, left), left + w0);
      const ey = Math.min(Math.max(py, top), top + h0);
      line.current?.setAttribute("x1", String(ex));
      line.current?.setAttribute("y1", String(ey));
      line.current?.setAttribute("x2", String(px));
      line.current?.setAttribute("y2", String(py));
      dot.current?.setAttribute("cx", String(px));
      dot.current?.setAttribute("cy", String(py));
    });
    return () => {
      stop();
    };
  }, [place.data, exaggeration, moves, number]);
  const several = (told.data?.entries.length ?? 0) > 1;
  const shown = told.data?.entries.slice(0, 8) ?? [];
  return (
    <>
      <svg className="flag-line" aria-hidden="true">
        <line ref={line} />
        <circle ref={dot} r="4.5" />
      </svg>
      <div className="flag-card" ref={card} data-testid={`flag-${number}`} style={{ visibility: "hidden" }}>
        <button
          type="button"
          className="flag-close"
          aria-label={`Remove flag ${number}`}
          onClick={() => remove.mutate(undefined)}
        >
          <X size={13} />
        </button>
        <div>
          <b>Flag {number}</b> · node {node}
        </div>
        {told.data && (
          <>
            <div className="fig flag-values" title={told.data.sentence}>
              {shown.map((e, i) => (
                <span
                  key={`${e.element}-${i}`}
                  title={e.element === null ? "node value" : `element ${e.element}, ${e.part}`}
                >
                  {figure(e.value)}
                </span>
              ))}
              {told.data.entries.length > shown.length && <span>+{told.data.entries.length - shown.length}</span>}
              <span className="unit">{told.data.unit}</span>
            </div>
            {several && (
              <div className="quiet">
                jump{" "}
                <span className="fig">
                  {figure(told.data.jump, 3)} {told.data.unit}
                </span>
                {told.data.jump_of_range !== null && <>, {percent(told.data.jump_of_range, 2)} of the range</>}
              </div>
            )}
          </>
        )}
        {told.error && <div className="quiet">{told.error.message}</div>}
      </div>
    </>
  );
}
