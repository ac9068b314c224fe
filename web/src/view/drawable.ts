import { useEffect } from "react";
import type * as THREE from "three";

/** Something a pane draws: the skin of the model, arrows, a cut, a path. What it makes it also gives back. */
export interface Drawable {
  readonly group: THREE.Object3D;
  dispose(): void;
}

/** Gives back what a drawable made when another takes its place, or the pane goes. */
export function useDisposed(drawable: { dispose(): void } | null): void {
  useEffect(() => () => drawable?.dispose(), [drawable]);
}
