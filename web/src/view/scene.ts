import * as THREE from "three";
import type { Packed } from "../api/binary";
import type { SurfaceHead } from "../api/queries";

/** Geometry of one result: vertices are shared by the picture, the lines and the identity pass; faces share none. */
export class ModelGeometry {
  readonly surface = new THREE.BufferGeometry();
  /** Faces of parts that are seen through. */
  readonly translucent = new THREE.BufferGeometry();
  readonly nodes = new THREE.BufferGeometry();
  readonly lines = new THREE.BufferGeometry();
  readonly outline = new THREE.BufferGeometry();
  readonly count: number;
  private readonly displacement: THREE.BufferAttribute;
  private readonly value: THREE.BufferAttribute;
  private readonly valid: THREE.BufferAttribute;

  constructor(readonly packed: Packed<SurfaceHead>) {
    const position = new THREE.BufferAttribute(packed.floats.positions!, 3);
    this.count = position.count;
    this.displacement = new THREE.BufferAttribute(new Float32Array(3 * this.count), 3);
    this.value = new THREE.BufferAttribute(new Float32Array(this.count), 1);
    this.valid = new THREE.BufferAttribute(new Float32Array(this.count), 1);
    for (const geometry of [this.surface, this.translucent, this.lines, this.outline, this.nodes]) {
      geometry.setAttribute("position", position);
      geometry.setAttribute("displacement", this.displacement);
    }
    for (const geometry of [this.surface, this.translucent]) {
      geometry.setAttribute("value", this.value);
      geometry.setAttribute("valid", this.valid);
    }
    this.surface.setAttribute("face", new THREE.BufferAttribute(new Float32Array(packed.whole.face!), 1));
    this.surface.setAttribute("st", new THREE.BufferAttribute(packed.floats.st!, 2));
    const triangles = packed.whole.triangles!;
    const opaque = 3 * packed.head.opaque;
    this.surface.setIndex(new THREE.BufferAttribute(triangles.subarray(0, opaque), 1));
    this.translucent.setIndex(new THREE.BufferAttribute(triangles.subarray(opaque), 1));
    this.nodes.setIndex(new THREE.BufferAttribute(packed.whole.nodes!, 1));
    this.lines.setIndex(new THREE.BufferAttribute(packed.whole.edges!, 1));
    this.outline.setIndex(new THREE.BufferAttribute(packed.whole.outline!, 1));
  }

  setDisplacement(values: Float32Array | null): void {
    const target = this.displacement.array as Float32Array;
    if (values && values.length === target.length) target.set(values);
    else target.fill(0);
    this.displacement.needsUpdate = true;
  }

  setValues(values: Float32Array): void {
    if (values.length !== this.count) return;
    const value = this.value.array as Float32Array;
    const valid = this.valid.array as Float32Array;
    for (let i = 0; i < values.length; i++) {
      const v = values[i]!;
      const there = Number.isFinite(v);
      value[i] = there ? v : 0;
      valid[i] = there ? 1 : 0;
    }
    this.value.needsUpdate = true;
    this.valid.needsUpdate = true;
  }

  dispose(): void {
    for (const geometry of [this.surface, this.translucent, this.lines, this.outline, this.nodes]) geometry.dispose();
  }

  /** Calls with every vertex as drawn: its number and coordinates; ``stride`` skips some. */
  eachPoint(exaggeration: number, stride: number, call: (i: number, x: number, y: number, z: number) => void): void {
    const p = this.packed.floats.positions!;
    const d = this.displacement.array;
    const [x, y, z] = this.packed.head.origin;
    for (let i = 0; i < this.count; i += stride) {
      const k = 3 * i;
      call(
        i,
        x + p[k]! + exaggeration * d[k]!,
        y + p[k + 1]! + exaggeration * d[k + 1]!,
        z + p[k + 2]! + exaggeration * d[k + 2]!,
      );
    }
  }

  /** The value drawn at a vertex; null where there is none. */
  valueAt(i: number): number | null {
    return this.valid.array[i] === 1 ? this.value.array[i]! : null;
  }
}

export interface Pick {
  face: number;
  s: number;
  t: number;
}

/** Reads what lies under a pixel by drawing identities into one pixel, on the deformed shape. */
export class Picker {
  private readonly target = new THREE.WebGLRenderTarget(1, 1, {
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
  });
  private readonly scene = new THREE.Scene();
  private readonly bytes = new Uint8Array(4);

  constructor(
    meshes: THREE.Mesh[],
    private readonly material: THREE.ShaderMaterial,
  ) {
    for (const mesh of meshes) mesh.frustumCulled = false;
    this.scene.add(...meshes);
  }

  pick(
    gl: THREE.WebGLRenderer,
    camera: THREE.OrthographicCamera,
    x: number,
    y: number,
    exaggeration: number,
  ): Pick | null {
    const size = gl.getSize(new THREE.Vector2());
    camera.setViewOffset(size.x, size.y, Math.floor(x), Math.floor(y), 1, 1);
    this.material.uniforms.exaggeration!.value = exaggeration;
    const colour = gl.getClearColor(new THREE.Color());
    const alpha = gl.getClearAlpha();
    gl.setClearColor(0x000000, 0);
    const read = (what: number): Uint8Array => {
      this.material.uniforms.what!.value = what;
      gl.setRenderTarget(this.target);
      gl.clear();
      gl.render(this.scene, camera);
      gl.readRenderTargetPixels(this.target, 0, 0, 1, 1, this.bytes);
      return this.bytes.slice();
    };
    const identity = read(0);
    const number = identity[0]! * 65536 + identity[1]! * 256 + identity[2]!;
    const place = number > 0 ? read(1) : null;
    gl.setRenderTarget(null);
    gl.setClearColor(colour, alpha);
    camera.clearViewOffset();
    if (!place) return null;
    return {
      face: number - 1,
      s: (place[0]! * 256 + place[1]!) / 65535,
      t: (place[2]! * 256 + place[3]!) / 65535,
    };
  }

  dispose(): void {
    this.material.dispose();
    this.target.dispose();
  }
}
