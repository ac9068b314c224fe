import type * as THREE from "three";

export interface Frame {
  camera: THREE.OrthographicCamera;
  width: number;
  height: number;
}

type Listener = (frame: Frame) => void;

/** What the rest of the bench may ask of the view: its picture, and to be told of every drawn frame. */
class ViewHandle {
  private readonly listeners = new Set<Listener>();
  last: Frame | null = null;
  capture: (() => HTMLCanvasElement | null) | null = null;
  redraw: (() => void) | null = null;

  onFrame(listener: Listener): () => void {
    this.listeners.add(listener);
    if (this.last) listener(this.last);
    return () => this.listeners.delete(listener);
  }

  tell(frame: Frame): void {
    this.last = frame;
    for (const listener of this.listeners) listener(frame);
  }
}

export const view = new ViewHandle();
