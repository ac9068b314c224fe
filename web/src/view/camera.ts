import * as THREE from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { ModelGeometry } from "./scene";

/** The eye stands this many model radii from where it looks: what perspective there is comes from that. */
const distance = 4;

/**
 * Zoom is kept for a view of 400 pixels, so that a picture is the same in a window of another size. The size must be the one
 * the frustum is set for: the element of the page has another for as long as the layout changes.
 */
export const scaleOf = (size: { width: number; height: number }) => Math.min(size.width, size.height) / 400;

/**
 * One camera for both projections. With perspective the matrix is that of an eye at the camera's place, of the same scale
 * where one looks; zooming then lengthens the lens and never enters the model.
 */
export function setLens(eye: THREE.OrthographicCamera, perspective: boolean, radius: number): void {
  const parallel = THREE.OrthographicCamera.prototype.updateProjectionMatrix;
  if (!perspective) {
    eye.updateProjectionMatrix = parallel;
    eye.updateProjectionMatrix();
    return;
  }
  eye.updateProjectionMatrix = function update(this: THREE.OrthographicCamera) {
    parallel.call(this);
    // The parallel matrix tells the window: left, right, top, bottom at the place one looks at, a view offset included.
    const m = this.projectionMatrix.elements;
    const [w, h] = [1 / m[0]!, 1 / m[5]!];
    const [cx, cy] = [-m[12]! * w, -m[13]! * h];
    const d = distance * radius;
    const near = 0.05 * d;
    const f = near / d;
    this.projectionMatrix.makePerspective(
      (cx - w) * f,
      (cx + w) * f,
      (cy + h) * f,
      (cy - h) * f,
      near,
      d + 40 * radius,
      this.coordinateSystem,
    );
    this.projectionMatrixInverse.copy(this.projectionMatrix).invert();
  };
  eye.updateProjectionMatrix();
}

export function setFrustum(eye: THREE.OrthographicCamera, width: number, height: number, radius: number): void {
  eye.left = -width / 2;
  eye.right = width / 2;
  eye.top = height / 2;
  eye.bottom = -height / 2;
  eye.near = -20 * radius;
  eye.far = 40 * radius;
  eye.updateProjectionMatrix();
}

interface Fit {
  eye: THREE.OrthographicCamera;
  geometry: ModelGeometry;
  /** Half the size of the whole result, whatever of it is shown. */
  radius: number;
  exaggeration: number;
  mirror: THREE.Matrix4 | null;
  width: number;
  height: number;
  controls: OrbitControls | null;
  /** Looked from here, in place of from where one looks now. */
  from?: THREE.Vector3;
}

/** Brings the whole of what is drawn into the window. */
export function fitCamera({ eye, geometry, radius, exaggeration, mirror, width, height, controls, from }: Fit): void {
  const { centre, planar } = geometry.packed.head;
  setFrustum(eye, width, height, radius);
  const target = new THREE.Vector3(...centre);
  const look =
    from ??
    (planar
      ? new THREE.Vector3(0, 0, 1)
      : controls && eye.userData.placed && !eye.userData.planar
        ? eye.position.clone().sub(controls.target).normalize()
        : new THREE.Vector3(-0.52, -1, 0.5).normalize());
  // A plane model has its one direction; the next solid one is not looked at from there.
  eye.userData.planar = planar;
  eye.userData.placed = true;
  eye.position.copy(target).addScaledVector(look, distance * radius);
  eye.lookAt(target);
  eye.updateMatrixWorld();
  const right = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
  const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
  const box = new THREE.Box2();
  const at = new THREE.Vector3();
  const flat = new THREE.Vector2();
  const stride = Math.max(1, Math.floor(geometry.count / 20000));
  geometry.eachPoint(exaggeration, stride, (_, x, y, z) => {
    for (const turn of mirror ? [null, mirror] : [null]) {
      at.set(x, y, z);
      if (turn) at.applyMatrix4(turn);
      at.sub(target);
      box.expandByPoint(flat.set(at.dot(right), at.dot(up)));
    }
  });
  const span = box.getSize(new THREE.Vector2());
  const middle = box.getCenter(new THREE.Vector2());
  target.addScaledVector(right, middle.x).addScaledVector(up, middle.y);
  eye.position.copy(target).addScaledVector(look, distance * radius);
  eye.zoom = 0.84 * Math.min(width / Math.max(span.x, 1e-9), height / Math.max(span.y, 1e-9));
  eye.updateProjectionMatrix();
  if (controls) {
    controls.target.copy(target);
    controls.update();
  }
}

/** Zooms to a box of the window, pixels from its upper left corner. */
export function zoomToBox(
  eye: THREE.OrthographicCamera,
  controls: OrbitControls,
  width: number,
  height: number,
  box: { x0: number; y0: number; x1: number; y1: number },
): void {
  const right = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
  const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
  const shift = right
    .multiplyScalar(((box.x0 + box.x1) / 2 - width / 2) / eye.zoom)
    .addScaledVector(up, (height / 2 - (box.y0 + box.y1) / 2) / eye.zoom);
  eye.position.add(shift);
  controls.target.add(shift);
  eye.zoom *= Math.min(width / Math.abs(box.x1 - box.x0), height / Math.abs(box.y1 - box.y0));
  eye.updateProjectionMatrix();
  controls.update();
}
