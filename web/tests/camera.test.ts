import * as THREE from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { describe, expect, test } from "vitest";
import { fitCamera, setFrustum, setLens, zoomToBox } from "../src/view/camera";
import { ModelGeometry } from "../src/view/scene";
import { box } from "./model";

const width = 900;
const height = 470;
const radius = 5;

function eyeAt(x: number, y: number, z: number): THREE.OrthographicCamera {
  const eye = new THREE.OrthographicCamera();
  eye.up.set(0, 0, 1);
  setFrustum(eye, width, height, radius);
  eye.position.set(x, y, z).setLength(4 * radius);
  eye.lookAt(0, 0, 0);
  eye.zoom = 40;
  eye.updateProjectionMatrix();
  eye.updateMatrixWorld();
  return eye;
}

const pixel = (eye: THREE.Camera, point: THREE.Vector3) => {
  const p = point.clone().project(eye);
  return [((p.x + 1) / 2) * width, ((1 - p.y) / 2) * height] as const;
};

const distance = (a: readonly [number, number], b: readonly [number, number]) => Math.hypot(a[0] - b[0], a[1] - b[1]);

describe("perspective", () => {
  test("keeps the scale where one looks, and makes what is nearer larger", () => {
    const eye = eyeAt(0, -1, 0);
    const across = (y: number) =>
      distance(pixel(eye, new THREE.Vector3(-1, y, 0)), pixel(eye, new THREE.Vector3(1, y, 0)));
    const flat = across(0);
    expect(across(-3)).toBeCloseTo(flat, 6);
    setLens(eye, true, radius);
    expect(across(0)).toBeCloseTo(flat, 3);
    // Of an eye 20 away, what is 3 nearer is 20/17 as large (similar triangles).
    expect(across(-3) / flat).toBeCloseTo(20 / 17, 4);
    expect(across(3) / flat).toBeCloseTo(20 / 23, 4);
    setLens(eye, false, radius);
    expect(across(-3)).toBeCloseTo(flat, 6);
  });

  test("a pixel alone is cut out of the same picture", () => {
    const eye = eyeAt(1, -1, 0.5);
    setLens(eye, true, radius);
    const point = new THREE.Vector3(0.7, -1.1, 0.4);
    const [x, y] = pixel(eye, point);
    eye.setViewOffset(width, height, Math.floor(x), Math.floor(y), 1, 1);
    const alone = point.clone().project(eye);
    expect((alone.x + 1) / 2).toBeCloseTo(x - Math.floor(x), 3);
    expect((1 - alone.y) / 2).toBeCloseTo(y - Math.floor(y), 3);
    eye.clearViewOffset();
    expect(pixel(eye, point)[0]).toBeCloseTo(x, 6);
  });

  test("what is seen can be found again from its pixel", () => {
    const eye = eyeAt(1, -1, 0.5);
    setLens(eye, true, radius);
    const point = new THREE.Vector3(0.3, 0.2, -0.6);
    const back = point.clone().project(eye).unproject(eye);
    expect(back.distanceTo(point)).toBeLessThan(1e-6);
  });
});

describe("fitting", () => {
  const drawn = (eye: THREE.Camera, geometry: ModelGeometry, mirror: THREE.Matrix4 | null = null) => {
    const xs: number[] = [];
    const ys: number[] = [];
    geometry.eachPoint(0, 1, (_, x, y, z) => {
      for (const turn of mirror ? [null, mirror] : [null]) {
        const p = new THREE.Vector3(x, y, z);
        if (turn) p.applyMatrix4(turn);
        const [px, py] = pixel(eye, p);
        xs.push(px);
        ys.push(py);
      }
    });
    return { left: Math.min(...xs), right: Math.max(...xs), top: Math.min(...ys), bottom: Math.max(...ys) };
  };

  test.each([[[-0.52, -1, 0.5]], [[1, 0, 0]], [[0, -1e-4, 1]]])(
    "from %o the whole model fills the window, in the middle",
    (from) => {
      const eye = eyeAt(0, -1, 0);
      const geometry = new ModelGeometry(box(4, 1, 2));
      const look = new THREE.Vector3(...(from as [number, number, number])).normalize();
      fitCamera({ eye, geometry, radius, exaggeration: 0, mirror: null, width, height, controls: null, from: look });
      eye.updateMatrixWorld();
      const seen = drawn(eye, geometry);
      expect(Math.max((seen.right - seen.left) / width, (seen.bottom - seen.top) / height)).toBeCloseTo(0.84, 4);
      expect((seen.left + seen.right) / 2).toBeCloseTo(width / 2, 3);
      expect((seen.top + seen.bottom) / 2).toBeCloseTo(height / 2, 3);
    },
  );

  test("with its mirror image both halves are in the window", () => {
    const eye = eyeAt(0, -1, 0);
    const geometry = new ModelGeometry(box(4, 1, 2));
    const mirror = new THREE.Matrix4().makeScale(-1, 1, 1);
    fitCamera({ eye, geometry, radius, exaggeration: 0, mirror, width, height, controls: null });
    eye.updateMatrixWorld();
    const seen = drawn(eye, geometry, mirror);
    expect(seen.left).toBeGreaterThan(0);
    expect(seen.right).toBeLessThan(width);
    expect((seen.left + seen.right) / 2).toBeCloseTo(width / 2, 3);
  });

  test("the deformed shape is what is fitted", () => {
    const geometry = new ModelGeometry(box(4, 1, 2));
    const moved = new Float32Array(3 * geometry.count);
    for (let i = 0; i < geometry.count; i++) moved[3 * i + 2] = i === 0 ? 3 : 0;
    geometry.setDisplacement(moved);
    const zoomed = [0, 2].map((exaggeration) => {
      const eye = eyeAt(0, -1, 0);
      const from = new THREE.Vector3(0, -1, 0);
      fitCamera({ eye, geometry, radius, exaggeration, mirror: null, width, height, controls: null, from });
      return eye.zoom;
    });
    expect(zoomed[1]).toBeLessThan(zoomed[0]!);
  });
});

test("a box of the window fills the window afterwards, its middle in the middle", () => {
  const eye = eyeAt(1, -2, 0.7);
  const controls = { target: new THREE.Vector3(), update: () => true } as unknown as OrbitControls;
  const right = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
  const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
  const at = (x: number, y: number) =>
    right
      .clone()
      .multiplyScalar((x - width / 2) / eye.zoom)
      .addScaledVector(up, (height / 2 - y) / eye.zoom);
  const [a, b] = [at(300, 100), at(500, 200)];
  zoomToBox(eye, controls, width, height, { x0: 300, y0: 100, x1: 500, y1: 200 });
  eye.updateMatrixWorld();
  const [p, q] = [pixel(eye, a), pixel(eye, b)];
  expect((p[0] + q[0]) / 2).toBeCloseTo(width / 2, 3);
  expect((p[1] + q[1]) / 2).toBeCloseTo(height / 2, 3);
  expect(Math.max((q[0] - p[0]) / width, (q[1] - p[1]) / height)).toBeCloseTo(1, 4);
});
