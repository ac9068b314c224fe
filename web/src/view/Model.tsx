import { useFrame, useThree } from "@react-three/fiber";
import { useCallback, useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Packed } from "../api/binary";
import type { ValuesHead } from "../api/client";
import type { ArrowsHead } from "../api/queries";
import { useBench, usePane } from "../bench/store";
import { ArrowDrawing } from "./arrows";
import { fitCamera, scaleOf, setFrustum, setLens, zoomToBox } from "./camera";
import { CutDrawing, type DrawnCut, planesOf } from "./cutDrawing";
import { type Drawable, useDisposed } from "./drawable";
import { useView } from "./handle";
import type { ModelGeometry } from "./scene";
import { Skin } from "./skin";

interface ModelProps {
  geometry: ModelGeometry;
  values: Packed<ValuesHead> | undefined;
  displacement: Float32Array | null;
  limits: [number, number];
  ready: boolean;
  mirror: THREE.Matrix4 | null;
  arrows: Packed<ArrowsHead> | undefined;
  cuts: DrawnCut[];
  size: number;
  onPoint: (at: { face: number; s: number; t: number } | null, x: number, y: number, click: boolean) => void;
  onBox: (box: { x0: number; y0: number; x1: number; y1: number } | null) => void;
  /** Told when the machine has taken the graphics away, and when they are back. */
  onLost: (lost: boolean) => void;
}

/** The model in the canvas: its picture, its lines, the camera, and what the pointer asks. */
export function Model(props: ModelProps) {
  const { geometry, values, displacement, limits, ready, mirror, arrows, cuts, onPoint, onBox, onLost } = props;
  const { gl, camera, size, invalidate, scene } = useThree();
  const bench = useBench();
  const { look, key } = bench;
  const eye = camera as THREE.OrthographicCamera;
  const controls = useRef<OrbitControls | null>(null);
  const { planar } = geometry.packed.head;
  const radius = Math.max(props.size / 2, 1e-9);

  const pane = usePane();
  const view = useView();
  const skin = useMemo(() => new Skin(geometry), [geometry]);
  useDisposed(skin);

  // Values, shape and key
  useEffect(() => {
    if (values) geometry.setValues(values.floats.values!);
    invalidate();
  }, [geometry, values, invalidate]);
  useEffect(() => {
    geometry.setDisplacement(displacement);
    invalidate();
  }, [geometry, displacement, invalidate]);
  const head = values?.head;
  const cutDrawings = useMemo(
    () => cuts.flatMap((c) => (c.faces ? [new CutDrawing(c.faces, c.words, skin.table)] : [])),
    [cuts, skin],
  );
  useEffect(() => () => cutDrawings.forEach((d) => void d.dispose()), [cutDrawings]);
  useEffect(() => {
    const shown = {
      ...planesOf(cuts),
      look,
      key,
      limits,
      head,
      exaggeration: bench.exaggeration,
      meshLines: bench.meshLines,
      pixelRatio: gl.getPixelRatio(),
    };
    for (const drawing of cutDrawings) drawing.show(shown, mirror);
    skin.show({ ...shown, undeformed: bench.undeformed, moves: displacement !== null, mirror });
    invalidate();
  }, [
    skin,
    cuts,
    cutDrawings,
    limits,
    key,
    look,
    bench.exaggeration,
    bench.meshLines,
    bench.undeformed,
    displacement,
    head,
    mirror,
    gl,
    invalidate,
  ]);

  // What is drawn
  const choice = bench.arrows;
  const arrowDrawing = useMemo(
    () => (arrows && choice ? new ArrowDrawing(arrows, choice, props.size, bench.exaggeration) : null),
    [arrows, choice, props.size, bench.exaggeration],
  );
  useDisposed(arrowDrawing);
  const drawables: (Drawable | null)[] = [skin, arrowDrawing, ...cutDrawings];

  // Camera
  const framed = useRef(size);
  framed.current = size;
  const keepCamera = useCallback(() => {
    if (!controls.current) return;
    pane.set({
      camera: {
        position: eye.position.toArray(),
        target: controls.current.target.toArray(),
        zoom: eye.zoom / scaleOf(framed.current),
      },
    });
  }, [eye, pane]);
  const fitView = useCallback(
    (from?: THREE.Vector3) => {
      const { exaggeration } = pane.getState();
      const { width, height } = size;
      fitCamera({ eye, geometry, radius, exaggeration, mirror, width, height, controls: controls.current, from });
      keepCamera();
      invalidate();
    },
    [eye, geometry, radius, mirror, size, pane, invalidate, keepCamera],
  );
  /** Nobody has moved the camera since it was fitted: it follows a change of the pane's size. */
  const untouched = useRef(false);
  useEffect(() => {
    const c = new OrbitControls(eye, gl.domElement);
    c.enableDamping = false;
    c.enableRotate = !planar;
    eye.up.set(0, planar ? 1 : 0, planar ? 0 : 1);
    const save = () => {
      untouched.current = false;
      invalidate();
      keepCamera();
    };
    c.addEventListener("change", () => invalidate());
    c.addEventListener("end", save);
    const before = controls.current;
    if (before) c.target.copy(before.target);
    controls.current = c;
    return () => c.dispose();
  }, [eye, gl, planar, invalidate, keepCamera]);
  useEffect(() => {
    setLens(eye, look.perspective, radius);
    invalidate();
  }, [eye, look.perspective, radius, invalidate]);
  const saved = bench.camera;
  const own = useRef<typeof saved>(null);
  useEffect(() => {
    if (!ready || saved) return;
    fitView();
    untouched.current = true;
  }, [ready, saved, fitView]);
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new request fits the view, not a new step
  useEffect(() => {
    if (bench.fitCount > 0) fitView();
  }, [bench.fitCount]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new request turns the view
  useEffect(() => {
    if (bench.lookFrom) fitView(new THREE.Vector3(...bench.lookFrom.from).normalize());
  }, [bench.lookFrom]);
  const place = bench.goTo;
  useEffect(() => {
    if (!place || !controls.current) return;
    const shift = new THREE.Vector3(...place.xyz).sub(controls.current.target);
    eye.position.add(shift);
    controls.current.target.add(shift);
    controls.current.update();
    invalidate();
  }, [place, eye, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new step does not fit the view anew
  useEffect(() => {
    if (untouched.current) fitView();
    else {
      // What is seen grows and shrinks with the window.
      const { camera: kept } = pane.getState();
      if (kept) eye.zoom = kept.zoom * scaleOf(size);
      setFrustum(eye, size.width, size.height, radius);
    }
    invalidate();
  }, [eye, size, radius, mirror, invalidate]);

  useEffect(() => {
    const element = gl.domElement;
    const away = (e: Event) => {
      e.preventDefault();
      onLost(true);
    };
    const back = () => {
      onLost(false);
      invalidate();
    };
    element.addEventListener("webglcontextlost", away);
    element.addEventListener("webglcontextrestored", back);
    return () => {
      element.removeEventListener("webglcontextlost", away);
      element.removeEventListener("webglcontextrestored", back);
    };
  }, [gl, onLost, invalidate]);

  // Frames and pictures
  useEffect(() => {
    view.held = [values, displacement];
  }, [values, displacement, view]);
  useFrame(() => {
    eye.updateMatrixWorld();
    view.tell({ camera: eye, width: size.width, height: size.height });
  });
  useEffect(() => {
    view.redraw = invalidate;
    view.capture = () => {
      gl.render(scene, eye);
      return gl.domElement;
    };
    view.visibleRange = () => {
      const at = new THREE.Vector3();
      let low = Number.POSITIVE_INFINITY;
      let high = Number.NEGATIVE_INFINITY;
      geometry.eachPoint(pane.getState().exaggeration, 1, (i, x, y, z) => {
        const value = geometry.valueAt(i);
        if (value === null) return;
        at.set(x, y, z).project(eye);
        if (Math.abs(at.x) > 1 || Math.abs(at.y) > 1) return;
        low = Math.min(low, value);
        high = Math.max(high, value);
      });
      return high >= low ? [low, high] : null;
    };
    return () => {
      view.capture = null;
      view.redraw = null;
      view.visibleRange = null;
    };
  }, [gl, scene, eye, geometry, pane, view, invalidate]);

  // Pointer. What is called may change from one drawing to the next; a drag under way must not be lost by that.
  const calls = useRef({ onPoint, onBox });
  calls.current = { onPoint, onBox };
  useEffect(() => {
    const element = gl.domElement;
    let down: { x: number; y: number } | null = null;
    let waiting = 0;
    const at = (e: PointerEvent) => {
      const box = element.getBoundingClientRect();
      return { x: e.clientX - box.left, y: e.clientY - box.top };
    };
    const find = (x: number, y: number, click: boolean) =>
      calls.current.onPoint(skin.picker.pick(gl, eye, x, y, pane.getState().exaggeration), x, y, click);
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
      if (controls.current) controls.current.enabled = !boxing();
      // A box may be drawn across what stands over the view.
      if (boxing()) element.setPointerCapture(e.pointerId);
    };
    const onUp = (e: PointerEvent) => {
      window.clearTimeout(waiting);
      const here = at(e);
      const far = down ? Math.hypot(here.x - down.x, here.y - down.y) : 0;
      if (down && boxing() && controls.current) {
        if (far > 8)
          zoomToBox(eye, controls.current, size.width, size.height, { x0: down.x, y0: down.y, x1: here.x, y1: here.y });
        controls.current.enabled = true;
        pane.set({ boxing: false });
        untouched.current = false;
        calls.current.onBox(null);
        keepCamera();
        invalidate();
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
  }, [gl, eye, size, skin, pane, keepCamera, invalidate]);

  return (
    <>
      {drawables.map((d) => d && <primitive key={d.group.uuid} object={d.group} />)}
      <FadeLines lines={skin.lines} faces={geometry.packed.head.faces} radius={radius} fade={look.style === "shaded"} />
    </>
  );
}

/** Element edges fade where they would crowd: full above 14 pixels between them, gone below 3. */
function FadeLines({
  lines,
  faces,
  radius,
  fade,
}: {
  lines: THREE.ShaderMaterial;
  faces: number;
  radius: number;
  fade: boolean;
}) {
  useFrame(({ camera }) => {
    const spacing = (2 * radius * (camera as THREE.OrthographicCamera).zoom) / Math.sqrt(Math.max(faces, 1));
    const opacity = fade ? 0.34 * Math.min(1, Math.max(0, (spacing - 3) / 11)) : 0.6;
    lines.uniforms.opacity!.value = opacity;
    lines.visible = opacity > 0.01;
  });
  return null;
}
