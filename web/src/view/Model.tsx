import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Packed } from "../api/binary";
import type { ValuesHead } from "../api/client";
import type { ArrowsHead } from "../api/queries";
import { shapeScale, useBench, usePane } from "../bench/store";
import { toneOf } from "../theme/strokes";
import type { DrawnAlongside } from "./alongside";
import { ArrowDrawing } from "./arrows";
import { CutDrawing, type DrawnCut, planesOf } from "./cutDrawing";
import { type Drawable, useDisposed } from "./drawable";
import { useView } from "./handle";
import type { ModelGeometry } from "./scene";
import { Skin } from "./skin";
import { useCamera } from "./useCamera";
import { type PointerCalls, usePointer } from "./usePointer";

interface ModelProps extends PointerCalls {
  geometry: ModelGeometry;
  values: Packed<ValuesHead> | undefined;
  displacement: Float32Array | null;
  limits: [number, number];
  ready: boolean;
  mirror: THREE.Matrix4 | null;
  arrows: Packed<ArrowsHead> | undefined;
  cuts: DrawnCut[];
  alongside: DrawnAlongside[];
  size: number;
  /** Told when the machine has taken the graphics away, and when they are back. */
  onLost: (lost: boolean) => void;
}

/** The model in the canvas: its picture, its lines, the camera, and what the pointer asks. */
export function Model(props: ModelProps) {
  const { geometry, values, displacement, limits, ready, mirror, arrows, cuts, alongside, onPoint, onBox, onLost } =
    props;
  const { gl, camera, size, invalidate, scene, get } = useThree();
  const {
    look,
    key,
    meshLines,
    undeformed,
    arrows: choice,
  } = useBench("look", "key", "meshLines", "undeformed", "arrows");
  const exaggeration = useBench(shapeScale);
  const eye = camera as THREE.OrthographicCamera;
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
  const others = useMemo(
    () =>
      alongside.flatMap(({ faces, words }) =>
        faces
          ? [
              new CutDrawing(
                faces,
                { shows: words.shows === "plain" || faces.head.said ? "plain" : "reading" },
                skin.table,
                toneOf(words.tone ?? 0),
              ),
            ]
          : [],
      ),
    [alongside, skin],
  );
  useEffect(() => () => others.forEach((d) => void d.dispose()), [others]);
  useEffect(() => {
    const shown = {
      ...planesOf(cuts),
      look,
      key,
      limits,
      head,
      exaggeration,
      meshLines,
      pixelRatio: gl.getPixelRatio(),
    };
    for (const drawing of [...cutDrawings, ...others]) drawing.show(shown, mirror);
    skin.show({ ...shown, undeformed, moves: displacement !== null, mirror });
    invalidate();
  }, [
    skin,
    cuts,
    cutDrawings,
    others,
    limits,
    key,
    look,
    exaggeration,
    meshLines,
    undeformed,
    displacement,
    head,
    mirror,
    gl,
    invalidate,
  ]);

  // What is drawn
  const arrowDrawing = useMemo(
    () => (arrows && choice ? new ArrowDrawing(arrows, choice, props.size, exaggeration) : null),
    [arrows, choice, props.size, exaggeration],
  );
  useDisposed(arrowDrawing);
  const drawables: (Drawable | null)[] = [skin, arrowDrawing, ...cutDrawings, ...others];

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
    // A picture that stands already is not drawn again for being taken.
    view.rested = () => get().internal.frames === 0;
    view.capture = () => {
      if (!view.rested?.()) gl.render(scene, eye);
      return gl.domElement;
    };
    view.visibleRange = () => {
      const at = new THREE.Vector3();
      let low = Number.POSITIVE_INFINITY;
      let high = Number.NEGATIVE_INFINITY;
      geometry.eachPoint(shapeScale(pane.getState()), 1, (i, x, y, z) => {
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
      view.rested = null;
      view.redraw = null;
      view.visibleRange = null;
    };
  }, [gl, scene, eye, geometry, pane, view, invalidate, get]);

  const hold = useCamera(geometry, radius, ready, mirror);
  usePointer(skin, hold, { onPoint, onBox });

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
