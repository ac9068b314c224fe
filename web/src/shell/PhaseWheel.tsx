import { useState } from "react";
import { useContents } from "../api/queries";
import { swingOf, useBench } from "../bench/store";
import { atPhase, cycleOf, wholeDegrees } from "../lines/phases";

/** The phase a harmonic is read at, or a mode is drawn at: a small wheel at the rail's end, turned, typed, or stepped by arrows. */
export function PhaseWheel() {
  const { result, reading, step, set } = useBench("result", "reading", "step", "set");
  const swung = useBench(swingOf);
  const contents = useContents(result);
  const [text, setText] = useState<string | null>(null);
  const cycle = cycleOf(contents.data, { reading, step });
  if (!cycle || !reading) return null;
  const typed = cycle === "mode" ? swung : Number(reading.phase || "0");
  const now = Number.isFinite(typed) ? wholeDegrees(typed) : null;
  const turn = (degrees: number) => set({ ...atPhase({ reading, result, step }, cycle, degrees), playing: false });
  const by = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const [dx, dy] = [e.clientX - box.left - box.width / 2, e.clientY - box.top - box.height / 2];
    // Clockwise from the top, by whole five degrees.
    turn(5 * Math.round((Math.atan2(dx, -dy) * 180) / Math.PI / 5));
  };
  const finish = () => {
    const value = text === null ? null : Number(text.replace("°", "").trim());
    if (value !== null && Number.isFinite(value)) turn(value);
    setText(null);
  };
  const angle = ((now ?? 0) * Math.PI) / 180;
  return (
    <div className="phase-wheel" title="Phase: turn the wheel, or type degrees">
      <svg
        width="30"
        height="30"
        viewBox="-15 -15 30 30"
        role="slider"
        tabIndex={0}
        aria-label="Phase"
        aria-valuemin={0}
        aria-valuemax={359}
        aria-valuenow={now ?? 0}
        aria-valuetext={now === null ? reading.phase : `${now} degrees`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          by(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && by(e)}
        onKeyDown={(e) => {
          const way = { ArrowRight: 5, ArrowUp: 5, ArrowLeft: -5, ArrowDown: -5, PageUp: 45, PageDown: -45 }[e.key];
          if (way === undefined) return;
          e.preventDefault();
          e.stopPropagation();
          turn((now ?? 0) + way);
        }}
      >
        <circle r="12" />
        {now !== null && <line x2={11 * Math.sin(angle)} y2={-11 * Math.cos(angle)} />}
      </svg>
      <input
        className="form-control form-control-sm fig"
        aria-label="Phase in degrees"
        value={text ?? (now === null ? reading.phase : `${now}°`)}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") finish();
        }}
      />
    </div>
  );
}
