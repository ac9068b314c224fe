import { type KeyboardEvent, useState } from "react";

export interface RailMark {
  kind: string;
  /** Where it stands on the rail, in pixels, and the step it leads to. */
  x: number;
  step: number;
  label: string;
  title: string;
}

const shapes: Record<string, string> = {
  yield: "M0 29 l4.500 7 h-9z",
  peak: "M0 28 l4.500 4.500 -4.500 4.500 -4.500 -4.500z",
  reversal: "M-1 33 h2 v4 h-2z",
  failure: "M-4 29 l8 8 M4 29 l-8 8",
};

/** What was found on the steps: one stop of the tab key, arrows go from mark to mark, Enter goes to its step. */
export function RailMarks({ marks, onStep }: { marks: RailMark[]; onStep: (step: number) => void }) {
  const [last, setLast] = useState(0);
  const sorted = [...marks].sort((a, b) => a.x - b.x);
  const reached = Math.min(last, sorted.length - 1);
  const keys = (e: KeyboardEvent<SVGGElement>, i: number) => {
    if (e.key === "Enter" || e.key === " ") onStep(sorted[i]!.step);
    else {
      const to = { ArrowRight: i + 1, ArrowLeft: i - 1, Home: 0, End: sorted.length - 1 }[e.key];
      if (to === undefined) return;
      e.currentTarget.parentElement?.querySelectorAll<SVGGElement>(".mark")[to]?.focus();
    }
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <g>
      {sorted.map((m, i) => (
        <g
          key={`${m.kind}-${m.step}`}
          className={`mark mark-${m.kind}`}
          data-testid={`mark-${m.kind}`}
          transform={`translate(${m.x} 0)`}
          role="button"
          tabIndex={i === reached ? 0 : -1}
          aria-label={m.label}
          onFocus={() => setLast(i)}
          onPointerDown={(e) => {
            e.stopPropagation();
            onStep(m.step);
          }}
          onKeyDown={(e) => keys(e, i)}
        >
          <title>{m.title}</title>
          <path d={shapes[m.kind] ?? shapes.reversal} />
        </g>
      ))}
    </g>
  );
}
