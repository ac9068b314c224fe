import { keepPreviousData, useQueries, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import * as THREE from "three";
import type { Packed } from "../api/binary";
import { type CutHead, cutFacesQuery, type KeptWords, useKept } from "../api/kept";
import { useBench, usePane } from "../bench/store";
import { figure } from "../reading/format";
import type { Drawable } from "./drawable";
import { cutBy, fieldMaterial, lineMaterial, type Plane } from "./material";
import { colourBy, placeAt, type SkinState } from "./skin";

export interface DrawnCut {
  id: number;
  words: KeptWords["cut"];
  faces: Packed<CutHead> | undefined;
  error: Error | null;
  fetching: boolean;
}

/** The cuts that are switched on, with what is drawn of each; the one that is being moved as it is now. */
export function useDrawnCuts(): DrawnCut[] {
  const { result, reading, step, look, cut, moving } = useBench("result", "reading", "step", "look", "cut", "moving");
  const kept = useKept("cut", result).data;
  const on = useMemo(
    () =>
      (kept ?? [])
        .filter((c) => c.words.on)
        .map((c) => ({ id: c.id, words: c.id === cut && moving ? { ...c.words, through: moving } : c.words })),
    [kept, cut, moving],
  );
  const answers = useQueries({
    queries: on.map(({ words }) => ({
      ...cutFacesQuery(result ?? 0, reading, step, look, words),
      placeholderData: keepPreviousData,
    })),
    combine: (found) =>
      found.map((f) => ({ data: f.error ? undefined : f.data, error: f.error, fetching: f.isFetching })),
  });
  return useMemo(
    () =>
      on.map((c, i) => ({
        ...c,
        faces: answers[i]?.data,
        error: answers[i]?.error ?? null,
        fetching: answers[i]?.fetching ?? false,
      })),
    [on, answers],
  );
}

/** Fetches what the cuts will be at another step, before it is shown. */
export function usePrefetchCuts(): (step: number) => Promise<unknown> {
  const client = useQueryClient();
  const pane = usePane();
  const kept = useKept(
    "cut",
    useBench((s) => s.result),
  ).data;
  return (step) => {
    const { result, reading, look } = pane.getState();
    const on = (kept ?? []).filter((c) => c.words.on && !(c.words.through && !reading));
    return Promise.all(
      on.map((c) =>
        client.prefetchQuery(cutFacesQuery(result ?? 0, reading, step, look, c.words)).catch(() => undefined),
      ),
    );
  };
}

/** A cut in words, for notes and captions. */
export function cutWords({ words, faces, error }: DrawnCut): string {
  if (error) return `${words.name}: ${error.message}`;
  const of = words.reading && faces ? `${faces.head.of}, ` : "";
  const where = words.through
    ? `by the plane through (${words.through.replace(":", ") square to (").replaceAll(",", ", ")})`
    : words.band
      ? `${of}from ${words.band.replace(":", " to ")}`
      : `${of}at ${(words.iso ?? []).join(", ")}`;
  const away = {
    nothing: "",
    front: ", what lies in front taken away",
    behind: ", what lies behind taken away",
    rest: ", alone",
  };
  const shown = faces?.head.own
    ? `, in colours of ${faces.head.shown}, from ${figure(faces.head.low)} to ${figure(faces.head.high)} ${faces.head.unit}`
    : "";
  return `${words.name}, ${where}${shown}${away[words.removes ?? "nothing"]}`;
}

/** Point and normal of a written plane. */
export function planeOf(text: string): { at: THREE.Vector3; normal: THREE.Vector3 } | null {
  const numbers = text.split(/[:,]/).map(Number);
  if (numbers.length !== 6 || !numbers.every(Number.isFinite)) return null;
  const normal = new THREE.Vector3(...numbers.slice(3));
  return normal.length() > 0 ? { at: new THREE.Vector3(...numbers.slice(0, 3)), normal: normal.normalize() } : null;
}

/** What the cuts take away of the model. */
export function planesOf(cuts: DrawnCut[]): { planes: Plane[]; cutsAlone: boolean } {
  const planes: Plane[] = [];
  for (const { words } of cuts) {
    const plane =
      words.through && words.removes !== "nothing" && words.removes !== "rest" ? planeOf(words.through) : null;
    if (!plane) continue;
    const { at, normal } = plane;
    if (words.removes === "behind") normal.negate();
    planes.push([normal.x, normal.y, normal.z, at.dot(normal)]);
  }
  return { planes, cutsAlone: cuts.some((c) => c.words.removes === "rest") };
}

/** A cut: its faces in the colours of the key or plain, and the borders of elements on it. */
export class CutDrawing implements Drawable {
  readonly group = new THREE.Group();
  private readonly faces: THREE.BufferGeometry;
  private readonly borders: THREE.BufferGeometry;
  private readonly field: THREE.ShaderMaterial;
  private readonly lines = lineMaterial("#23282D", 0.35);

  private readonly head: CutHead;

  constructor(
    packed: Packed<CutHead>,
    private readonly words: Partial<Pick<KeptWords["cut"], "shows" | "through" | "borders">>,
    table: THREE.DataTexture,
    tone: string | null = null,
  ) {
    const { positions, displacement, values, border_positions, border_displacement } = packed.floats;
    this.head = packed.head;
    this.field = fieldMaterial(table);
    if (tone) {
      this.field.uniforms.tone!.value.set(...new THREE.Color().setStyle(tone, THREE.LinearSRGBColorSpace).toArray());
      this.field.uniforms.shaded!.value = 1;
    }
    // A cut face lies where the model was cut away: it stands in front of what is left of it there.
    this.field.polygonOffsetFactor = 0;
    this.field.polygonOffsetUnits = 0;
    this.faces = new THREE.BufferGeometry();
    this.faces.setAttribute("position", new THREE.BufferAttribute(positions!, 3));
    this.faces.setAttribute("displacement", new THREE.BufferAttribute(displacement!, 3));
    const valid = new Float32Array(values!.length);
    const value = new Float32Array(values!.length);
    values!.forEach((v, i) => {
      const there = Number.isFinite(v);
      value[i] = there ? v : 0;
      valid[i] = there ? 1 : 0;
    });
    this.faces.setAttribute("value", new THREE.BufferAttribute(value, 1));
    this.faces.setAttribute("valid", new THREE.BufferAttribute(valid, 1));
    this.borders = new THREE.BufferGeometry();
    this.borders.setAttribute("position", new THREE.BufferAttribute(border_positions!, 3));
    this.borders.setAttribute("displacement", new THREE.BufferAttribute(border_displacement!, 3));
    for (let half = 0; half < 2; half++) {
      const mesh = new THREE.Mesh(this.faces, this.field);
      const lines = new THREE.LineSegments(this.borders, this.lines);
      lines.renderOrder = 1;
      for (const object of [mesh, lines]) {
        object.frustumCulled = false;
        this.group.add(object);
      }
    }
  }

  show(state: Omit<SkinState, "undeformed" | "moves" | "mirror">, mirror: THREE.Matrix4 | null): void {
    const { own, low, high } = this.head;
    colourBy(
      this.field,
      own && low !== null && high !== null ? { ...state, limits: [low, high], head: undefined } : state,
      this.head.base,
    );
    if (this.words.shows === "plain") this.field.uniforms.plain!.value = 1;
    this.lines.uniforms.exaggeration!.value = state.exaggeration;
    // Other planes cut this one too; its own leaves it whole.
    const plane = this.words.through ? planeOf(this.words.through) : null;
    const others = state.planes.filter(
      ([x, y, z, d]) =>
        !plane ||
        Math.abs(plane.normal.x * x + plane.normal.y * y + plane.normal.z * z) < 1 - 1e-9 ||
        Math.abs(Math.abs(plane.at.dot(plane.normal)) - Math.abs(d)) > 1e-9,
    );
    for (const material of [this.field, this.lines]) cutBy(material, others, this.head.origin);
    this.group.children.forEach((object, i) => {
      const second = i >= 2;
      const line = i % 2 === 1;
      object.visible =
        (!second || mirror !== null) &&
        (!line || (this.words.borders ?? true) || !this.faces.attributes.position!.count);
      placeAt(object, this.head.origin, second ? mirror : null);
    });
  }

  dispose(): void {
    for (const made of [this.faces, this.borders, this.field, this.lines]) made.dispose();
  }
}
