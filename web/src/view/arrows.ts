import * as THREE from "three";
import type { Packed } from "../api/binary";
import type { ArrowsHead } from "../api/queries";
import type { ArrowChoice } from "../bench/store";
import type { Drawable } from "./drawable";

const ink = new THREE.Color("#23282D");
const heads = 0.28;

/**
 * Arrows of vectors, or crosses of principal directions: a line through the point along each, its tips turned outwards in
 * tension and inwards in compression, so that no colour is needed to tell them apart.
 */
export class ArrowDrawing implements Drawable {
  readonly group = new THREE.Group();
  private readonly made: (THREE.BufferGeometry | THREE.Material)[] = [];

  constructor(packed: Packed<ArrowsHead>, choice: ArrowChoice, size: number, exaggeration: number) {
    const { count, longest, kind } = packed.head;
    const { points, displacement, values, directions, outward } = packed.floats;
    this.group.position.set(...packed.head.origin);
    if (!count || !(longest > 0)) return;
    const scale = (choice.length * size) / longest;
    const lines: number[] = [];
    const tips: { at: THREE.Vector3; along: THREE.Vector3; length: number }[] = [];
    const at = new THREE.Vector3();
    const along = new THREE.Vector3();
    const out = new THREE.Vector3();
    const shaft = (from: THREE.Vector3, to: THREE.Vector3) => lines.push(...from.toArray(), ...to.toArray());
    for (let i = 0; i < count; i++) {
      const place = (k: number) => points![3 * i + k]! + exaggeration * displacement![3 * i + k]!;
      at.set(place(0), place(1), place(2));
      if (kind === "vector") {
        for (let k = 0; k < (choice.split ? 3 : 1); k++) {
          along.fromArray(values!, 3 * i).multiplyScalar(scale);
          if (choice.split) along.set(k === 0 ? along.x : 0, k === 1 ? along.y : 0, k === 2 ? along.z : 0);
          const length = along.length();
          if (length < (choice.split ? 0.01 * choice.length * size : 0)) continue;
          if (outward) out.fromArray(outward, 3 * i);
          const tip = choice.at === "tip" || (choice.at === "outside" && along.dot(out) < 0);
          const from = tip ? at.clone().sub(along) : at.clone();
          const to = tip ? at.clone() : at.clone().add(along);
          shaft(from, to);
          tips.push({ at: to, along: along.clone().normalize(), length });
        }
        continue;
      }
      for (let k = 0; k < 3; k++) {
        const value = values![3 * i + k]!;
        const half = (Math.abs(value) * scale) / 2;
        if (half < 0.02 * choice.length * size) continue;
        along.fromArray(directions!, 9 * i + 3 * k);
        for (const side of [1, -1]) {
          const end = at.clone().addScaledVector(along, side * half);
          shaft(at.clone(), end);
          const outward = along.clone().multiplyScalar(side);
          if (value > 0) tips.push({ at: end, along: outward, length: half });
          else
            tips.push({
              at: at.clone().addScaledVector(along, side * half * 0.45),
              along: outward.negate(),
              length: half,
            });
        }
      }
    }
    if (choice.full) this.bodies(lines, tips, size);
    else this.strokes(lines, tips);
  }

  private strokes(lines: number[], tips: { at: THREE.Vector3; along: THREE.Vector3; length: number }[]): void {
    const geometry = new THREE.BufferGeometry();
    const side = new THREE.Vector3();
    for (const { at, along, length } of tips) {
      const reach = heads * length;
      side
        .set(Math.abs(along.z) < 0.8 ? 0 : 1, 0, Math.abs(along.z) < 0.8 ? 1 : 0)
        .cross(along)
        .normalize();
      const across = side.clone().cross(along);
      for (const barb of [side, side.clone().negate(), across, across.clone().negate()]) {
        const end = at
          .clone()
          .addScaledVector(along, -reach)
          .addScaledVector(barb, 0.4 * reach);
        lines.push(...at.toArray(), ...end.toArray());
      }
    }
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(lines, 3));
    const material = new THREE.LineBasicMaterial({ color: ink, toneMapped: false });
    const drawn = new THREE.LineSegments(geometry, material);
    drawn.frustumCulled = false;
    drawn.renderOrder = 2;
    this.group.add(drawn);
    this.made.push(geometry, material);
  }

  private bodies(
    lines: number[],
    tips: { at: THREE.Vector3; along: THREE.Vector3; length: number }[],
    size: number,
  ): void {
    const thick = 0.0035 * size;
    const rod = new THREE.CylinderGeometry(1, 1, 1, 8);
    const cone = new THREE.ConeGeometry(1, 1, 12);
    const material = new THREE.MeshBasicMaterial({ color: ink, toneMapped: false });
    this.made.push(rod, cone, material);
    const up = new THREE.Vector3(0, 1, 0);
    const turn = new THREE.Quaternion();
    const matrix = new THREE.Matrix4();
    const rods = new THREE.InstancedMesh(rod, material, lines.length / 6);
    for (let i = 0; i < lines.length / 6; i++) {
      const from = new THREE.Vector3().fromArray(lines, 6 * i);
      const to = new THREE.Vector3().fromArray(lines, 6 * i + 3);
      const length = Math.max(from.distanceTo(to), 1e-12);
      turn.setFromUnitVectors(up, to.clone().sub(from).divideScalar(length));
      rods.setMatrixAt(i, matrix.compose(from.add(to).divideScalar(2), turn, new THREE.Vector3(thick, length, thick)));
    }
    const cones = new THREE.InstancedMesh(cone, material, tips.length);
    tips.forEach(({ at, along, length }, i) => {
      const reach = Math.min(heads * length, 0.03 * size);
      turn.setFromUnitVectors(up, along);
      const middle = at.clone().addScaledVector(along, -reach / 2);
      cones.setMatrixAt(i, matrix.compose(middle, turn, new THREE.Vector3(0.38 * reach, reach, 0.38 * reach)));
    });
    for (const drawn of [rods, cones]) {
      drawn.frustumCulled = false;
      this.group.add(drawn);
    }
  }

  dispose(): void {
    for (const made of this.made) made.dispose();
  }
}
