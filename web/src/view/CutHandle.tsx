import { useEffect, useRef } from "react";
import * as THREE from "three";
import { useKeeping, useKept } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench, usePane } from "../bench/store";
import { planeOf } from "./cutDrawing";
import { type Frame, useView } from "./handle";

const parts = 48;
const short = (v: THREE.Vector3) => [v.x, v.y, v.z].map((c) => Number(c.toPrecision(7))).join(",");

/** The chosen section's plane, held by a ring that moves it along its normal and a staff that turns it. */
export function CutHandle() {
  const { result, bay, drawers, cut, moving, set } = useBench("result", "bay", "drawers", "cut", "moving", "set");
  const pane = usePane();
  const view = useView();
  const contents = useContents(result);
  const kept = useKept("cut", result).data?.find((c) => c.id === cut);
  const { change } = useKeeping("cut");
  const ring = useRef<SVGPathElement>(null);
  const staff = useRef<SVGLineElement>(null);
  const knob = useRef<SVGCircleElement>(null);
  const frame = useRef<Frame | null>(null);
  const drag = useRef<"ring" | "knob" | null>(null);
  const text = moving ?? kept?.words.through ?? "";
  const shown = bay === "field" && drawers.field === "cuts" && kept?.words.on && planeOf(text) !== null;
  const reach = 0.22 * (contents.data?.size ?? 1);

  useEffect(() => {
    const plane = shown ? planeOf(text) : null;
    if (!plane) return;
    const { at, normal } = plane;
    const one = new THREE.Vector3(Math.abs(normal.z) < 0.9 ? 0 : 1, 0, Math.abs(normal.z) < 0.9 ? 1 : 0)
      .cross(normal)
      .normalize();
    const two = normal.clone().cross(one);
    const stop = view.onFrame((now) => {
      frame.current = now;
      const pixel = (p: THREE.Vector3): [number, number] => {
        const q = p.clone().project(now.camera);
        return [((q.x + 1) / 2) * now.width, ((1 - q.y) / 2) * now.height];
      };
      const points = Array.from({ length: parts }, (_, i) => {
        const a = (2 * Math.PI * i) / parts;
        return pixel(
          at
            .clone()
            .addScaledVector(one, reach * Math.cos(a))
            .addScaledVector(two, reach * Math.sin(a)),
        );
      });
      ring.current?.setAttribute("d", `M${points.map((p) => p.map((v) => v.toFixed(1)).join(",")).join("L")}Z`);
      const [a, b] = [pixel(at), pixel(at.clone().addScaledVector(normal, reach))];
      staff.current?.setAttribute("x1", a[0].toFixed(1));
      staff.current?.setAttribute("y1", a[1].toFixed(1));
      staff.current?.setAttribute("x2", b[0].toFixed(1));
      staff.current?.setAttribute("y2", b[1].toFixed(1));
      knob.current?.setAttribute("cx", b[0].toFixed(1));
      knob.current?.setAttribute("cy", b[1].toFixed(1));
    });
    view.redraw?.();
    return () => stop();
  }, [shown, text, view, reach]);

  if (!shown) return null;
  const plane = () => planeOf(pane.getState().moving ?? kept.words.through ?? "")!;
  const down = (what: "ring" | "knob") => (e: React.PointerEvent<SVGElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    e.stopPropagation();
    drag.current = what;
  };
  const move = (e: React.PointerEvent<SVGElement>) => {
    const now = frame.current;
    if (!drag.current || !now) return;
    const { at, normal } = plane();
    // How far the pointer has gone, in the model's length along the window.
    const right = new THREE.Vector3().setFromMatrixColumn(now.camera.matrixWorld, 0);
    const up = new THREE.Vector3().setFromMatrixColumn(now.camera.matrixWorld, 1);
    const shift = right
      .multiplyScalar(e.movementX / now.camera.zoom)
      .addScaledVector(up, -e.movementY / now.camera.zoom);
    if (drag.current === "ring") {
      // What of the normal lies in the window tells how far along it the pointer means.
      const away = new THREE.Vector3().setFromMatrixColumn(now.camera.matrixWorld, 2);
      const seen = normal.clone().addScaledVector(away, -normal.dot(away));
      const along = seen.lengthSq() > 0.02 ? shift.dot(seen) / seen.lengthSq() : -e.movementY / now.camera.zoom;
      at.addScaledVector(normal, along);
    } else normal.multiplyScalar(reach).add(shift).normalize();
    set({ moving: `${short(at)}:${short(normal)}` });
  };
  const up = () => {
    const { moving: through } = pane.getState();
    if (drag.current && through)
      change.mutate({ id: kept.id, words: { through } }, { onSettled: () => set({ moving: null }) });
    drag.current = null;
  };
  return (
    <svg className="cut-handle" data-testid="cut-handle">
      <title>The plane of {kept.words.name}</title>
      <path ref={ring} onPointerDown={down("ring")} onPointerMove={move} onPointerUp={up} data-testid="cut-ring" />
      <line ref={staff} />
      <circle
        ref={knob}
        r="7"
        onPointerDown={down("knob")}
        onPointerMove={move}
        onPointerUp={up}
        data-testid="cut-knob"
      />
    </svg>
  );
}
