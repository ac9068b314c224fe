import * as THREE from "three";
import type { ValuesHead } from "../api/client";
import type { KeyChoice, Look } from "../bench/store";
import { breakOf, brokenBytes, chooseMap, nameBytes, tableBytes } from "../theme/colours";
import type { Drawable } from "./drawable";
import { cutBy, fieldMaterial, identityMaterial, lineMaterial, nodeMaterial, type Plane } from "./material";
import { type ModelGeometry, Picker } from "./scene";

/** What of a pane the skin is drawn by. */
export interface SkinState {
  look: Look;
  key: KeyChoice;
  limits: [number, number];
  head: ValuesHead | undefined;
  exaggeration: number;
  meshLines: boolean;
  undeformed: boolean;
  /** Whether the result has a displacement. */
  moves: boolean;
  mirror: THREE.Matrix4 | null;
  pixelRatio: number;
  /** What cuts take away of it: in front of planes, or all but its outline. */
  planes: Plane[];
  cutsAlone: boolean;
}

/** Gives a material the colours of the key. base: what its values were sent without. */
export function colourBy(
  material: THREE.ShaderMaterial,
  state: Omit<SkinState, "undeformed" | "moves" | "mirror">,
  base: number,
): void {
  const { look, key, limits, head } = state;
  const named = head?.categories ?? null;
  const u = material.uniforms;
  // A logarithm needs the values themselves; all else is their differences, which the base leaves exact.
  const logarithm = !named && key.log && limits[0] > 0;
  const off = logarithm ? 0 : base;
  u.base!.value = logarithm ? base : 0;
  u.low!.value = named ? -0.5 : limits[0] - off;
  u.high!.value = named ? named.length - 0.5 : limits[1] - off;
  u.bands!.value = named ? named.length : key.bands;
  u.logarithm!.value = logarithm ? 1 : 0;
  u.names!.value = named ? 1 : 0;
  u.iso!.value = named ? 0 : { none: 0, over: 1, alone: 2 }[key.iso];
  const limit = named ? null : breakOf(key.map, head?.limit);
  u.broken!.value = limit !== null ? 1 : 0;
  u.limit!.value = (limit ?? 1) - off;
  u.pixel!.value = state.pixelRatio;
  u.plain!.value = look.style === "lines" || look.style === "outline" ? 1 : 0;
  u.rim!.value = look.style === "outline" ? 1 : 0;
  u.exaggeration!.value = state.exaggeration;
}

/** Puts what counts from an origin where it lies, or its mirror image where that lies. */
export function placeAt(object: THREE.Object3D, origin: [number, number, number], mirror: THREE.Matrix4 | null): void {
  object.matrixAutoUpdate = false;
  object.matrix.makeTranslation(...origin);
  if (mirror) object.matrix.premultiply(mirror);
  object.matrixWorldNeedsUpdate = true;
}

/** The skin of the model: its faces in the colours of the key, its lines, its nodes, and their mirror image. */
export class Skin implements Drawable {
  readonly group = new THREE.Group();
  readonly picker: Picker;
  readonly lines = lineMaterial("#23282D", 0.3);
  readonly table: THREE.DataTexture;
  private readonly field: THREE.ShaderMaterial;
  private readonly translucent: THREE.ShaderMaterial;
  private readonly strong = lineMaterial("#23282D", 0.9);
  private readonly ghost = lineMaterial("#8E8A80", 0.9);
  private readonly dots = nodeMaterial();
  private readonly identity = identityMaterial();
  private readonly halves: ReturnType<Skin["half"]>[];
  private readonly origin: [number, number, number];

  constructor(geometry: ModelGeometry) {
    this.origin = geometry.packed.head.origin;
    this.table = new THREE.DataTexture(tableBytes("batlow"), 256, 1, THREE.RGBAFormat);
    this.table.minFilter = THREE.NearestFilter;
    this.table.magFilter = THREE.NearestFilter;
    this.table.needsUpdate = true;
    this.field = fieldMaterial(this.table);
    this.translucent = fieldMaterial(this.table, 0.32);
    const { identity } = this;
    this.halves = [this.half(geometry, identity, false), this.half(geometry, identity, true)];
    for (const half of this.halves) {
      for (const object of [half.mesh, half.translucent, half.edges, half.border, half.outline, half.nodes]) {
        object.frustumCulled = false;
        this.group.add(object);
      }
      half.outline.renderOrder = -1;
      half.edges.renderOrder = 1;
      half.border.renderOrder = 1;
      half.translucent.renderOrder = 3;
    }
    this.picker = new Picker(
      this.halves.map((h) => h.identity),
      identity,
    );
  }

  private half(geometry: ModelGeometry, identity: THREE.ShaderMaterial, second: boolean) {
    return {
      second,
      mesh: new THREE.Mesh(geometry.surface, this.field),
      translucent: new THREE.Mesh(geometry.translucent, this.translucent),
      edges: new THREE.LineSegments(geometry.lines, this.lines),
      border: new THREE.LineSegments(geometry.outline, this.strong),
      outline: new THREE.LineSegments(geometry.outline, this.ghost),
      nodes: new THREE.Points(geometry.nodes, this.dots),
      identity: new THREE.Mesh(geometry.surface, identity),
    };
  }

  show(state: SkinState): void {
    const { look, key, head, mirror, planes, cutsAlone } = state;
    const named = head?.categories ?? null;
    for (const material of [this.field, this.translucent]) colourBy(material, state, head?.base ?? 0);
    for (const material of [this.field, this.translucent, this.lines, this.strong, this.dots, this.identity])
      cutBy(material, planes, this.origin);
    const bytes = named
      ? nameBytes(named.map((c) => c.colour))
      : breakOf(key.map, head?.limit) !== null
        ? brokenBytes()
        : tableBytes(chooseMap(key.map, head?.signed ?? false));
    (this.table.image.data as Uint8Array).set(bytes);
    this.table.needsUpdate = true;
    for (const material of [this.lines, this.strong, this.dots])
      material.uniforms.exaggeration!.value = state.exaggeration;
    this.ghost.uniforms.exaggeration!.value = 0;
    this.dots.uniforms.size!.value = 5 * state.pixelRatio;
    for (const half of this.halves) {
      const there = !half.second || mirror !== null;
      half.mesh.visible = there && look.style !== "inside" && !cutsAlone;
      half.translucent.visible = there && look.style === "shaded" && !cutsAlone;
      half.edges.visible =
        there &&
        !cutsAlone &&
        (look.style === "shaded" ? state.meshLines : look.style === "lines" || look.style === "inside");
      half.border.visible = there && (look.style === "outline" || cutsAlone);
      half.outline.visible = there && state.undeformed && state.moves && state.exaggeration !== 0;
      half.nodes.visible = there && look.nodes;
      half.identity.visible = there;
      for (const object of [
        half.mesh,
        half.translucent,
        half.edges,
        half.border,
        half.outline,
        half.nodes,
        half.identity,
      ]) {
        placeAt(object, this.origin, half.second ? mirror : null);
      }
    }
  }

  dispose(): void {
    for (const m of [this.field, this.translucent, this.lines, this.strong, this.ghost, this.dots]) m.dispose();
    this.table.dispose();
    this.picker.dispose();
  }
}
