import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { api, ask, Problem, type Schemas } from "../api/client";
import { probe, useChange, useContents, useDeformation, useRange, useSurface, useValues } from "../api/queries";
import { tell } from "../bench/notices";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";
import { chooseMap, tableBytes } from "../theme/colours";
import { CoreKey } from "./CoreKey";
import { FlagLayer } from "./FlagLayer";
import { view } from "./handle";
import { limitsOf } from "./limits";
import { fieldMaterial, identityMaterial, lineMaterial } from "./material";
import { ModelGeometry, Picker } from "./scene";
import { Tripod } from "./Tripod";

interface Hover {
  x: number;
  y: number;
  told: Schemas["ProbeOut"];
}

/** The model with the reading on it, its key, its flags, and what the pointer finds. */
export function ModelView() {
  const { result, reading, step, exaggeration, set, undeformed } = useBench();
  const contents = useContents(result);
  const surface = useSurface(result);
  const values = useValues();
  const moves = contents.data?.fields.some((f) => f.kind === "displacement") ?? false;
  const deformation = useDeformation(result, step, moves);
  const range = useRange(useBench((s) => s.key.fit) === "all");
  const key = useBench((s) => s.key);
  const limits = limitsOf(key, values.data?.head, range.data);
  const [hover, setHover] = useState<Hover | null>(null);
  const geometry = useMemo(() => (surface.data ? new ModelGeometry(surface.data) : null), [surface.data]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  const plant = useChange((node: number) => ask(api.POST("/api/flags", { body: { result: result!, node } })));
  const probing = useRef<AbortController | null>(null);

  const onPoint = useCallback(
    (at: { face: number; s: number; t: number } | null, x: number, y: number, click: boolean) => {
      probing.current?.abort();
      if (!at || result === null || !reading) {
        setHover(null);
        return;
      }
      const control = new AbortController();
      probing.current = control;
      probe(result, reading, step, at.face, at.s, at.t, control.signal)
        .then((told) => {
          if (click) plant.mutate(told.node);
          else setHover({ x, y, told });
        })
        .catch((error: unknown) => {
          if (error instanceof Problem) tell(error);
        });
    },
    [result, reading, step, plant],
  );

  if (result === null) return <div className="view view-empty">Take a result in to look at it.</div>;
  const problem = surface.error ?? values.error;
  return (
    <div
      className="view"
      data-testid="view"
      data-busy={
        values.isFetching || values.isPlaceholderData || deformation.isPlaceholderData || deformation.isFetching
      }
    >
      <div className="view-canvas">
        {geometry && reading && (
          <Canvas
            orthographic
            frameloop="demand"
            dpr={[1, 2]}
            gl={{ antialias: true, preserveDrawingBuffer: true }}
            aria-label={values.data?.head.sentence ?? "model"}
            role="img"
          >
            <Model
              geometry={geometry}
              values={values.data?.floats.values}
              signed={values.data?.head.signed ?? false}
              displacement={deformation.data?.floats.displacement ?? null}
              limits={limits}
              ready={values.data !== undefined && (!moves || deformation.data !== undefined)}
              onPoint={onPoint}
            />
          </Canvas>
        )}
        {problem && (
          <div className="view-problem" role="alert">
            {String((problem as Error).message)}
          </div>
        )}
        {!problem && (surface.isPending || values.isPending) && (
          <div className="view-wait" role="status">
            Reading the model …
          </div>
        )}
        <FlagLayer moves={moves} />
        <Tripod />
        {hover && (
          <div className="hover-tip" style={{ left: hover.x + 14, top: hover.y + 14 }} data-testid="hover">
            <b className="fig">
              {figure(hover.told.value)} {hover.told.unit}
            </b>
            <span>
              element {hover.told.element}, node {hover.told.node}
            </span>
          </div>
        )}
        <div className="view-notes">
          {exaggeration !== 1 && moves && (
            <div className="caveat" role="status" data-testid="exaggeration-warning">
              {exaggeration === 0 ? (
                <>
                  Shown <b>undeformed</b>.
                </>
              ) : (
                <>
                  Deformation shown <b className="fig">{figure(exaggeration, 3)} ×</b>{" "}
                  {exaggeration > 1 ? "too large" : "its size"}.{undeformed && " Grey outline: undeformed."}
                </>
              )}{" "}
              <button type="button" className="link" onClick={() => set({ exaggeration: 1 })}>
                True scale
              </button>
            </div>
          )}
          {(values.data?.head.caveats ?? []).map((c) => (
            <div className="caveat" key={c}>
              {c}
            </div>
          ))}
        </div>
        {values.isFetching && values.data && <div className="view-busy" role="status" aria-label="fetching" />}
      </div>
      {values.data && <CoreKey head={values.data.head} limits={limits} />}
    </div>
  );
}

interface ModelProps {
  geometry: ModelGeometry;
  values: Float32Array | undefined;
  signed: boolean;
  displacement: Float32Array | null;
  limits: [number, number];
  ready: boolean;
  onPoint: (at: { face: number; s: number; t: number } | null, x: number, y: number, click: boolean) => void;
}

function Model({ geometry, values, signed, displacement, limits, ready, onPoint }: ModelProps) {
  const { gl, camera, size, invalidate, scene } = useThree();
  const bench = useBench();
  const eye = camera as THREE.OrthographicCamera;
  const controls = useRef<OrbitControls | null>(null);

  const parts = useMemo(() => {
    const table = new THREE.DataTexture(tableBytes("batlow"), 256, 1, THREE.RGBAFormat);
    table.minFilter = THREE.NearestFilter;
    table.magFilter = THREE.NearestFilter;
    table.needsUpdate = true;
    const field = fieldMaterial(table);
    const lines = lineMaterial("#23282D", 0.3);
    const ghost = lineMaterial("#8E8A80", 0.9);
    const mesh = new THREE.Mesh(geometry.surface, field);
    const edges = new THREE.LineSegments(geometry.lines, lines);
    const outline = new THREE.LineSegments(geometry.outline, ghost);
    for (const object of [mesh, edges, outline]) object.frustumCulled = false;
    outline.renderOrder = -1;
    edges.renderOrder = 1;
    const identity = identityMaterial();
    const picker = new Picker(new THREE.Mesh(geometry.surface, identity), identity);
    return { table, field, lines, ghost, mesh, edges, outline, picker };
  }, [geometry]);

  useEffect(
    () => () => {
      parts.field.dispose();
      parts.lines.dispose();
      parts.ghost.dispose();
      parts.table.dispose();
      parts.picker.dispose();
    },
    [parts],
  );

  // Values, shape and key
  useEffect(() => {
    if (values) geometry.setValues(values);
    invalidate();
  }, [geometry, values, invalidate]);
  useEffect(() => {
    geometry.setDisplacement(displacement);
    invalidate();
  }, [geometry, displacement, invalidate]);
  useEffect(() => {
    const u = parts.field.uniforms;
    u.low!.value = limits[0];
    u.high!.value = limits[1];
    u.bands!.value = bench.key.bands;
    u.logarithm!.value = bench.key.log && limits[0] > 0 ? 1 : 0;
    u.pixel!.value = gl.getPixelRatio();
    (parts.table.image.data as Uint8Array).set(tableBytes(chooseMap(bench.key.map, signed)));
    parts.table.needsUpdate = true;
    for (const material of [parts.field, parts.lines]) material.uniforms.exaggeration!.value = bench.exaggeration;
    parts.ghost.uniforms.exaggeration!.value = 0;
    parts.edges.visible = bench.meshLines;
    parts.outline.visible = bench.undeformed && displacement !== null && bench.exaggeration !== 0;
    invalidate();
  }, [
    parts,
    limits,
    bench.key,
    bench.exaggeration,
    bench.meshLines,
    bench.undeformed,
    displacement,
    signed,
    gl,
    invalidate,
  ]);

  // Camera
  const keepCamera = useCallback(() => {
    if (!controls.current) return;
    useBench.getState().set({
      camera: {
        position: eye.position.toArray(),
        target: controls.current.target.toArray(),
        zoom: eye.zoom / scaleOf(gl),
      },
    });
  }, [eye, gl]);
  const fit = useCallback(() => {
    fitCamera(eye, geometry, displacement, useBench.getState().exaggeration, size.width, size.height, controls.current);
    keepCamera();
    invalidate();
  }, [eye, geometry, displacement, size, invalidate, keepCamera]);
  const fitted = useRef<ModelGeometry | null>(null);
  useEffect(() => {
    const c = new OrbitControls(eye, gl.domElement);
    c.enableDamping = false;
    c.enableRotate = !geometry.packed.head.planar;
    eye.up.set(0, geometry.packed.head.planar ? 1 : 0, geometry.packed.head.planar ? 0 : 1);
    const save = () => {
      invalidate();
      keepCamera();
    };
    c.addEventListener("change", () => invalidate());
    c.addEventListener("end", save);
    controls.current = c;
    return () => c.dispose();
  }, [eye, gl, geometry, invalidate, keepCamera]);
  useEffect(() => {
    if (fitted.current === geometry || !ready) return;
    fitted.current = geometry;
    const saved = useBench.getState().camera;
    if (saved && controls.current) {
      setFrustum(eye, size.width, size.height, geometry.packed.head.radius);
      eye.position.fromArray(saved.position);
      controls.current.target.fromArray(saved.target);
      eye.zoom = saved.zoom * scaleOf(gl);
      eye.updateProjectionMatrix();
      controls.current.update();
      invalidate();
    } else fit();
  }, [geometry, ready, eye, fit, gl, size, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new request fits the view, not a new step
  useEffect(() => {
    if (bench.fitCount > 0) fit();
  }, [bench.fitCount]);
  const place = bench.goTo;
  useEffect(() => {
    if (!place || !controls.current) return;
    const shift = new THREE.Vector3(...place.xyz).sub(controls.current.target);
    eye.position.add(shift);
    controls.current.target.add(shift);
    controls.current.update();
    invalidate();
  }, [place, eye, invalidate]);
  useEffect(() => {
    setFrustum(eye, size.width, size.height, geometry.packed.head.radius);
    invalidate();
  }, [eye, size, geometry, invalidate]);

  // Frames and pictures
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
    return () => {
      view.capture = null;
      view.redraw = null;
    };
  }, [gl, scene, eye, invalidate]);

  // Pointer
  useEffect(() => {
    const element = gl.domElement;
    let down: { x: number; y: number } | null = null;
    let waiting = 0;
    const at = (e: PointerEvent) => {
      const box = element.getBoundingClientRect();
      return { x: e.clientX - box.left, y: e.clientY - box.top };
    };
    const look = (x: number, y: number, click: boolean) =>
      onPoint(parts.picker.pick(gl, eye, x, y, useBench.getState().exaggeration), x, y, click);
    const onMove = (e: PointerEvent) => {
      if (e.buttons) {
        onPoint(null, 0, 0, false);
        return;
      }
      const { x, y } = at(e);
      window.clearTimeout(waiting);
      waiting = window.setTimeout(() => look(x, y, false), 50);
    };
    const onDown = (e: PointerEvent) => {
      down = at(e);
    };
    const onUp = (e: PointerEvent) => {
      const here = at(e);
      if (down && e.button === 0 && Math.hypot(here.x - down.x, here.y - down.y) < 4) look(here.x, here.y, true);
      down = null;
    };
    const onLeave = () => {
      window.clearTimeout(waiting);
      onPoint(null, 0, 0, false);
    };
    element.addEventListener("pointermove", onMove);
    element.addEventListener("pointerdown", onDown);
    element.addEventListener("pointerup", onUp);
    element.addEventListener("pointerleave", onLeave);
    return () => {
      window.clearTimeout(waiting);
      element.removeEventListener("pointermove", onMove);
      element.removeEventListener("pointerdown", onDown);
      element.removeEventListener("pointerup", onUp);
      element.removeEventListener("pointerleave", onLeave);
    };
  }, [gl, eye, parts, onPoint]);

  return (
    <>
      <primitive object={parts.outline} />
      <primitive object={parts.mesh} />
      <primitive object={parts.edges} />
      <FadeLines lines={parts.lines} faces={geometry.packed.head.faces} radius={geometry.packed.head.radius} />
    </>
  );
}

/** Element edges fade where they would crowd: full above 14 pixels between them, gone below 3. */
function FadeLines({ lines, faces, radius }: { lines: THREE.ShaderMaterial; faces: number; radius: number }) {
  useFrame(({ camera }) => {
    const spacing = (2 * radius * (camera as THREE.OrthographicCamera).zoom) / Math.sqrt(Math.max(faces, 1));
    lines.uniforms.opacity!.value = 0.34 * Math.min(1, Math.max(0, (spacing - 3) / 11));
  });
  return null;
}

const scaleOf = (gl: THREE.WebGLRenderer) => Math.min(gl.domElement.clientWidth, gl.domElement.clientHeight) / 400;

function setFrustum(eye: THREE.OrthographicCamera, width: number, height: number, radius: number): void {
  eye.left = -width / 2;
  eye.right = width / 2;
  eye.top = height / 2;
  eye.bottom = -height / 2;
  eye.near = -20 * radius;
  eye.far = 40 * radius;
  eye.updateProjectionMatrix();
}

function fitCamera(
  eye: THREE.OrthographicCamera,
  geometry: ModelGeometry,
  displacement: Float32Array | null,
  exaggeration: number,
  width: number,
  height: number,
  controls: OrbitControls | null,
): void {
  const { centre, radius, planar } = geometry.packed.head;
  setFrustum(eye, width, height, radius);
  const target = new THREE.Vector3(...centre);
  const look =
    controls && eye.userData.placed
      ? eye.position.clone().sub(controls.target).normalize()
      : planar
        ? new THREE.Vector3(0, 0, 1)
        : new THREE.Vector3(-0.52, -1, 0.5).normalize();
  eye.userData.placed = true;
  eye.position.copy(target).addScaledVector(look, 4 * radius);
  eye.lookAt(target);
  eye.updateMatrixWorld();
  const right = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
  const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
  const p = geometry.packed.floats.positions!;
  const box = new THREE.Box2();
  const stride = 3 * Math.max(1, Math.floor(p.length / 3 / 20000));
  for (let i = 0; i < p.length; i += stride) {
    const d = (k: number) => p[i + k]! - centre[k]! + exaggeration * (displacement ? displacement[i + k]! : 0);
    const x = d(0) * right.x + d(1) * right.y + d(2) * right.z;
    const y = d(0) * up.x + d(1) * up.y + d(2) * up.z;
    box.expandByPoint(new THREE.Vector2(x, y));
  }
  const span = box.getSize(new THREE.Vector2());
  const middle = box.getCenter(new THREE.Vector2());
  target.addScaledVector(right, middle.x).addScaledVector(up, middle.y);
  eye.position.copy(target).addScaledVector(look, 4 * radius);
  eye.zoom = 0.84 * Math.min(width / Math.max(span.x, 1e-9), height / Math.max(span.y, 1e-9));
  eye.updateProjectionMatrix();
  if (controls) {
    controls.target.copy(target);
    controls.update();
  }
}
