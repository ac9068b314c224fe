import { useThree } from "@react-three/fiber";
import { useCallback, useEffect, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { type Camera, useBench, usePane } from "../bench/store";
import { fitCamera, scaleOf, setFrustum, setLens, zoomToBox } from "./camera";
import { useView } from "./handle";
import type { ModelGeometry } from "./scene";

export interface ScreenBox {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** The camera as the pointer sees it. */
export interface CameraHold {
  /** Lets the pointer turn the view, or keeps it from doing so. */
  turning: (on: boolean) => void;
  zoomTo: (box: ScreenBox) => void;
}

/** The camera of a pane: turned by hand, fitted, sent to a place, kept with the pane; what is asked of it comes by the view's handle. */
export function useCamera(
  geometry: ModelGeometry,
  radius: number,
  ready: boolean,
  mirror: THREE.Matrix4 | null,
): CameraHold {
  const { gl, camera, size, invalidate } = useThree();
  const eye = camera as THREE.OrthographicCamera;
  const { camera: saved, look } = useBench("camera", "look");
  const pane = usePane();
  const view = useView();
  const controls = useRef<OrbitControls | null>(null);
  const { planar } = geometry.packed.head;
  const framed = useRef(size);
  /** The camera is being put where another view's is. */
  const placing = useRef(false);
  framed.current = size;
  const now = useCallback(
    (): Camera => ({
      position: eye.position.toArray(),
      target: controls.current!.target.toArray(),
      zoom: eye.zoom / scaleOf(framed.current),
    }),
    [eye],
  );
  const keep = useCallback(() => {
    if (controls.current) pane.set({ camera: now() });
  }, [now, pane]);
  const fitView = useCallback(
    (from?: [number, number, number]) => {
      const { exaggeration } = pane.getState();
      const { width, height } = size;
      const direction = from && new THREE.Vector3(...from).normalize();
      fitCamera({
        eye,
        geometry,
        radius,
        exaggeration,
        mirror,
        width,
        height,
        controls: controls.current,
        from: direction,
      });
      keep();
      invalidate();
    },
    [eye, geometry, radius, mirror, size, pane, invalidate, keep],
  );
  /** Nobody has moved the camera since it was fitted: it follows a change of the pane's size. */
  const untouched = useRef(false);
  useEffect(() => {
    const c = new OrbitControls(eye, gl.domElement);
    c.enableDamping = false;
    c.enableRotate = !planar;
    eye.up.set(0, planar ? 1 : 0, planar ? 0 : 1);
    c.addEventListener("change", () => {
      invalidate();
      if (placing.current || !eye.userData.placed) return;
      view.turned?.(now());
    });
    c.addEventListener("end", () => {
      untouched.current = false;
      invalidate();
      keep();
    });
    const before = controls.current;
    if (before) c.target.copy(before.target);
    controls.current = c;
    return () => c.dispose();
  }, [eye, gl, planar, invalidate, keep, now, view]);
  useEffect(() => {
    setLens(eye, look.perspective, radius);
    invalidate();
  }, [eye, look.perspective, radius, invalidate]);
  const coming = useRef(!ready);
  coming.current = !ready;
  const later = useRef(false);
  const own = useRef<typeof saved>(null);
  useEffect(() => {
    if (!ready || (saved && !later.current)) return;
    later.current = false;
    fitView();
    untouched.current = true;
  }, [ready, saved, fitView]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a body drawn anew is what it waits for
  useEffect(() => {
    if (!ready || !view.fitsNext) return;
    fitView(view.fitsNext);
    view.fitsNext = null;
  }, [geometry, ready]);
  // A camera from the address or a named view is taken over; one that the pointer set is there already.
  useEffect(() => {
    if (!saved || !controls.current || own.current === saved) return;
    own.current = saved;
    const now = eye.position.toArray();
    if (now.every((v, i) => v === saved.position[i]) && eye.zoom === saved.zoom * scaleOf(size)) return;
    setFrustum(eye, size.width, size.height, radius);
    eye.position.fromArray(saved.position);
    controls.current.target.fromArray(saved.target);
    eye.zoom = saved.zoom * scaleOf(size);
    eye.userData.placed = true;
    eye.updateProjectionMatrix();
    controls.current.update();
    invalidate();
  }, [saved, eye, size, radius, invalidate]);
  useEffect(() => {
    view.fit = fitView;
    view.place = ({ position, target, zoom }) => {
      if (!controls.current) return;
      placing.current = true;
      eye.position.fromArray(position);
      controls.current.target.fromArray(target);
      eye.zoom = zoom * scaleOf(framed.current);
      eye.updateProjectionMatrix();
      controls.current.update();
      placing.current = false;
      invalidate();
    };
    view.goTo = (xyz) => {
      if (!controls.current) return;
      const shift = new THREE.Vector3(...xyz).sub(controls.current.target);
      eye.position.add(shift);
      controls.current.target.add(shift);
      controls.current.update();
      invalidate();
    };
    return () => {
      view.fit = null;
      view.place = null;
      view.goTo = null;
    };
  }, [view, fitView, eye, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new step does not fit the view anew
  useEffect(() => {
    // What is drawn may still be of another result: it is fitted when it has come.
    if (untouched.current) {
      if (coming.current) later.current = true;
      else fitView();
    } else {
      // What is seen grows and shrinks with the window.
      const { camera: kept } = pane.getState();
      if (kept) eye.zoom = kept.zoom * scaleOf(size);
      setFrustum(eye, size.width, size.height, radius);
    }
    invalidate();
  }, [eye, size, radius, mirror, invalidate]);

  const turning = useCallback((on: boolean) => {
    if (controls.current) controls.current.enabled = on;
  }, []);
  const zoomTo = useCallback(
    (box: ScreenBox) => {
      if (!controls.current) return;
      zoomToBox(eye, controls.current, size.width, size.height, box);
      untouched.current = false;
      keep();
      invalidate();
    },
    [eye, size, keep, invalidate],
  );
  return { turning, zoomTo };
}
