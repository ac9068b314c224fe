import type * as THREE from "three";
import type { ValuesHead } from "../api/client";
import { type Camera, panes, type ReadingChoice, usePane } from "../bench/store";
import { canDraw } from "./canDraw";
import type { Box } from "./labels";

export interface Frame {
  camera: THREE.OrthographicCamera;
  width: number;
  height: number;
}

type Listener = (frame: Frame) => void;

/** What of a step a picture needs: its values, and how far its nodes have moved. */
type Drawn = readonly [values: unknown, displacement: unknown];

/** What the rest of the bench may ask of the view: its picture, and to be told of every drawn frame. */
export class ViewHandle {
  private readonly listeners = new Set<Listener>();
  last: Frame | null = null;
  /** The element the pane is drawn in, with its key and what stands over the model. */
  root: HTMLElement | null = null;
  capture: (() => HTMLCanvasElement | null) | null = null;
  /** Whether what has been asked to be drawn stands in the window. */
  rested: (() => boolean) | null = null;
  redraw: (() => void) | null = null;
  /** What a picture has to say beside its reading: the cuts that are drawn. */
  notes: string[] = [];
  /** What the bench has handed over to be drawn, and what the model holds by now: that follows a little later. */
  asked: Drawn = [undefined, null];
  held: Drawn = [undefined, null];
  /** The words of what has been handed over, and all that stands beside its values. */
  caption = "";
  head: ValuesHead | null = null;
  /** What was drawn last: one goes back to it where the next takes too long. */
  shown: { result: number; reading: ReadingChoice; step: number; weigh: "area" | "volume" } | null = null;
  /** The result it is a view of. */
  title = "";
  /** What each flag takes of the window, its dot and its card, so that labels keep clear of them. */
  readonly flags = new Map<number, Box[]>();
  /** Fits the camera to the model, from where it looks or from a direction. */
  fit: ((from?: [number, number, number]) => void) | null = null;
  /** The direction the camera is fitted from as soon as what was asked for last is drawn; null: it stays where it is. */
  fitsNext: [number, number, number] | null = null;
  /** Moves the camera so that it looks at a place. */
  goTo: ((xyz: [number, number, number]) => void) | null = null;
  /** Puts the camera where another view's is, and tells when it was turned here. */
  place: ((camera: Camera) => void) | null = null;
  turned: ((camera: Camera) => void) | null = null;
  /** Lowest and highest value among what lies inside the window. */
  visibleRange: (() => [number, number] | null) | null = null;

  onFrame(listener: Listener): () => void {
    this.listeners.add(listener);
    if (this.last) listener(this.last);
    return () => this.listeners.delete(listener);
  }

  /** Whether a picture taken now shows what was handed over last. */
  upToDate(): boolean {
    return this.asked.every((given, i) => given === this.held[i]);
  }

  /** Settles with the first frame; at once when there has been one, or where this browser draws none. */
  drawn(): Promise<void> {
    if (!canDraw) return Promise.resolve();
    return new Promise((settle) => {
      const stop = this.onFrame(() => {
        settle();
        // The first call may come before there is anything to stop.
        queueMicrotask(() => stop());
      });
    });
  }

  tell(frame: Frame): void {
    this.last = frame;
    for (const listener of this.listeners) listener(frame);
  }
}

const handles: ViewHandle[] = [];

/** The view of a pane. */
export function viewOf(pane: number): ViewHandle {
  handles[pane] ??= new ViewHandle();
  return handles[pane]!;
}

/** The view of the active pane: what a picture, a film or a fit to what is seen is of. */
export const activeView = () => viewOf(panes.active());

/** The view of the pane a component belongs to. */
export const useView = () => viewOf(usePane().index);
