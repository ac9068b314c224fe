import { useCallback, useRef } from "react";
import type { Schemas, ValuesHead } from "../api/client";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";
import { useView } from "./handle";
import { usePinned } from "./pinned";

/** Highest and lowest of the reading, labelled where they are on the shape as drawn. */
export function ExtremeLabels({ head, moves }: { head: ValuesHead; moves: boolean }) {
  const labelled = useBench((s) => s.labelled);
  if (!labelled || head.categories || head.max?.value === head.min?.value) return null;
  return (
    <div className="extreme-layer">
      <Label word="highest" at={head.max} unit={head.unit} moves={moves} />
      <Label word="lowest" at={head.min} unit={head.unit} moves={moves} />
    </div>
  );
}

interface Props {
  word: "highest" | "lowest";
  at: Schemas["ExtremeOut"] | null;
  unit: string;
  moves: boolean;
}

function Label({ word, at, unit, moves }: Props) {
  const view = useView();
  const mark = useRef<HTMLDivElement>(null);
  const place = useCallback(
    (x: number, y: number, width: number) => {
      if (!mark.current) return;
      // It stands on the right of its place, unless the window ends there or a flag's dot would lie on it.
      const dotted = [...view.flags.values()].some((f) => f.x > x + 6 && f.x < x + 130 && Math.abs(f.y - y) < 12);
      const left = x > width - 150 || (dotted && x > 150);
      mark.current.style.transform = `translate(${x}px, ${y}px)`;
      mark.current.dataset.side = left ? "left" : "right";
      mark.current.style.visibility = "visible";
    },
    [view],
  );
  usePinned(at ?? undefined, moves, place);
  if (!at) return null;
  return (
    <div
      className={`extreme extreme-${word}`}
      ref={mark}
      style={{ visibility: "hidden" }}
      data-testid={`label-${word}`}
    >
      <svg width="12" height="12" viewBox="-6 -6 12 12" aria-hidden="true">
        <path d={word === "highest" ? "M0 -5 L5 4 L-5 4 Z" : "M0 5 L5 -4 L-5 -4 Z"} />
      </svg>
      <span>
        {word}{" "}
        <b className="fig">
          {figure(at.value)} {unit}
        </b>
      </span>
    </div>
  );
}
