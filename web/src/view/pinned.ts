import { useEffect } from "react";
import * as THREE from "three";
import { shapeScale, useBench } from "../bench/store";
import { type Frame, useView } from "./handle";

export interface Pin {
  xyz: number[];
  moved: number[];
}

const point = new THREE.Vector3();

/** The pixel a place is drawn at on the shape as drawn; by: the factor on its displacement. */
export function pixelOf(pin: Pin, by: number, { camera, width, height }: Frame): { x: number; y: number } {
  const [x, y, z] = [0, 1, 2].map((i) => pin.xyz[i]! + by * pin.moved[i]!) as [number, number, number];
  point.set(x, y, z).project(camera);
  return { x: ((point.x + 1) / 2) * width, y: ((1 - point.y) / 2) * height };
}

/** Calls with the pixel a place is drawn at, on the shape as drawn, whenever a frame is. */
export function usePinned(
  pin: Pin | undefined,
  moves: boolean,
  call: (x: number, y: number, width: number, height: number) => void,
): void {
  const view = useView();
  const exaggeration = useBench(shapeScale);
  useEffect(() => {
    if (!pin) return;
    return view.onFrame((frame) => {
      const { x, y } = pixelOf(pin, moves ? exaggeration : 0, frame);
      call(x, y, frame.width, frame.height);
    });
  }, [pin, moves, exaggeration, call, view]);
}
