import { useEffect, useRef } from "react";
import type { Schemas, ValuesHead } from "../api/client";
import { shapeScale, useBench } from "../bench/store";
import { digitsBetween, figure } from "../reading/format";
import { useView } from "./handle";
import { aroundMark, placeLabels } from "./labels";
import { pixelOf } from "./pinned";

/** Highest and lowest of the reading, labelled where they are on the shape as drawn. */
export function ExtremeLabels({ head, moves }: { head: ValuesHead; moves: boolean }) {
  const labelled = useBench((s) => s.labelled);
  const exaggeration = useBench(shapeScale);
  const view = useView();
  const layer = useRef<HTMLDivElement>(null);
  const shown = labelled && !head.categories && head.max?.value !== head.min?.value;
  const { max, min } = head;
  useEffect(() => {
    const pins = [max, min].filter((at) => at !== null);
    if (!shown) return;
    const stop = view.onFrame((frame) => {
      const marks = [...(layer.current?.querySelectorAll<HTMLElement>(".extreme") ?? [])];
      const words = marks.map((m) => m.querySelector("span")!);
      const pixels = pins.map((pin) => pixelOf(pin, moves ? exaggeration : 0, frame));
      const placed = placeLabels(
        pixels,
        words.map((w) => ({ width: w.offsetWidth, height: w.offsetHeight })),
        frame.width,
        frame.height,
        [...[...view.flags.values()].flat(), ...pixels.map(aroundMark)],
      );
      marks.forEach((mark, i) => {
        const { x, y } = pixels[i]!;
        mark.style.transform = `translate(${x}px, ${y}px)`;
        words[i]!.style.transform = `translate(${placed[i]!.x - x}px, ${placed[i]!.y - y}px)`;
        mark.style.visibility = "visible";
      });
    });
    view.redraw?.();
    return () => stop();
  }, [max, min, shown, moves, exaggeration, view]);
  if (!shown) return null;
  const digits = digitsBetween(min?.value, max?.value);
  return (
    <div className="extreme-layer" ref={layer}>
      <Label word="highest" at={max} unit={head.unit} digits={digits} />
      <Label word="lowest" at={min} unit={head.unit} digits={digits} />
    </div>
  );
}

interface Props {
  word: "highest" | "lowest";
  at: Schemas["ExtremeOut"] | null;
  unit: string;
  digits: number;
}

function Label({ word, at, unit, digits }: Props) {
  if (!at) return null;
  return (
    <div className={`extreme extreme-${word}`} style={{ visibility: "hidden" }} data-testid={`label-${word}`}>
      <svg width="12" height="12" viewBox="-6 -6 12 12" aria-hidden="true">
        <path d={word === "highest" ? "M0 -5 L5 4 L-5 4 Z" : "M0 5 L5 -4 L-5 -4 Z"} />
      </svg>
      <span>
        {word}{" "}
        <b className="fig">
          {figure(at.value, digits)} {unit}
        </b>
      </span>
    </div>
  );
}
