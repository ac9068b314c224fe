import { useEffect } from "react";
import * as THREE from "three";
import { useBench } from "../bench/store";
import { useView } from "./handle";

export interface Pin {
  xyz: number[];
  moved: number[];
}

/** Calls with the pixel a place is drawn at, on the shape as drawn, whenever a frame is. */
export function usePinned(
  pin: Pin | undefined,
  moves: boolean,
  call: (x: number, y: number, width: number, height: number) => void,
): void {
  const view = useView();
  const exaggeration = useBench((s) => s.exaggeration);
  useEffect(() => {
    if (!pin) return;
    const at = new THREE.Vector3();
    const f = moves ? exaggeration : 0;
    return view.onFrame(({ camera, width, height }) => {
      at.set(pin.xyz[0]! + f * pin.moved[0]!, pin.xyz[1]! + f * pin.moved[1]!, pin.xyz[2]! + f * pin.moved[2]!);
      at.project(camera);
      call(((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height, width, height);
    });
  }, [pin, moves, exaggeration, call, view]);
}
