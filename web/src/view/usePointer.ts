import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type * as THREE from "three";
import { shapeScale, usePane } from "../bench/store";
import type { Skin } from "./skin";
import type { CameraHold, ScreenBox } from "./useCamera";

/** Where the pointer is on the model: a drawn face and the place in it. */
export interface UnderPointer {
  face: number;
  s: number;
  t: number;
}

export interface PointerCalls {
  onPoint: (at: UnderPointer | null, x: number, y: number, click: boolean) => void;
  onBox: (box: ScreenBox | null) => void;
}

/** What the pointer asks of the model: what lies under it, a click, a box to zoom to. */
export function usePointer(skin: Skin, hold: CameraHold, given: PointerCalls): void {
  const { gl, camera } = useThree();
  const eye = camera as THREE.OrthographicCamera;
  const pane = usePane();
  // What is called may change from one drawing to the next; a drag under way must not be lost by that.
  const calls = useRef(given);
  calls.current = given;
  const { turning, zoomTo } = hold;
  useEffect(() => {
    const element = gl.domElement;
    let down: { x: number; y: number } | null = null;
    let waiting = 0;
    const at = (e: PointerEvent) => {
      const box = element.getBoundingClientRect();
      return { x: e.clientX - box.left, y: e.clientY - box.top };
    };
    const find = (x: number, y: number, click: boolean) =>
      calls.current.onPoint(skin.picker.pick(gl, eye, x, y, shapeScale(pane.getState())), x, y, click);
    const boxing = () => pane.getState().boxing;
    const onMove = (e: PointerEvent) => {
      const { x, y } = at(e);
      if (e.buttons) {
        calls.current.onPoint(null, 0, 0, false);
        if (down && boxing()) calls.current.onBox({ x0: down.x, y0: down.y, x1: x, y1: y });
        return;
      }
      window.clearTimeout(waiting);
      waiting = window.setTimeout(() => find(x, y, false), 50);
    };
    const onDown = (e: PointerEvent) => {
      down = at(e);
      turning(!boxing());
      // A box may be drawn across what stands over the view.
      if (boxing()) element.setPointerCapture(e.pointerId);
    };
    const onUp = (e: PointerEvent) => {
      window.clearTimeout(waiting);
      const here = at(e);
      const far = down ? Math.hypot(here.x - down.x, here.y - down.y) : 0;
      if (down && boxing()) {
        turning(true);
        pane.set({ boxing: false });
        calls.current.onBox(null);
        if (far > 8) zoomTo({ x0: down.x, y0: down.y, x1: here.x, y1: here.y });
      } else if (down && e.button === 0 && far < 4) find(here.x, here.y, true);
      down = null;
    };
    const onLeave = () => {
      window.clearTimeout(waiting);
      calls.current.onPoint(null, 0, 0, false);
    };
    // Before the controls hear of it, so that a box is not taken for a turn.
    element.addEventListener("pointerdown", onDown, { capture: true });
    element.addEventListener("pointermove", onMove);
    element.addEventListener("pointerup", onUp);
    element.addEventListener("pointerleave", onLeave);
    return () => {
      window.clearTimeout(waiting);
      element.removeEventListener("pointerdown", onDown, { capture: true });
      element.removeEventListener("pointermove", onMove);
      element.removeEventListener("pointerup", onUp);
      element.removeEventListener("pointerleave", onLeave);
    };
  }, [gl, eye, skin, pane, turning, zoomTo]);
}
