import { Pause, Play, SkipBack, SkipForward } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useContents, usePrefetch } from "../api/queries";
import { nextStep } from "../bench/playing";
import { activePane, type BenchState, swingOf, useBench } from "../bench/store";
import { atPhase, cycleOf } from "../lines/phases";
import { useFailure } from "../lines/strength";
import { figure } from "../reading/format";
import { usePrefetchAlongside } from "../view/alongside";
import { usePrefetchCuts } from "../view/cutDrawing";
import { PhaseWheel } from "./PhaseWheel";
import { PlayingMenu } from "./PlayingMenu";
import { RailComb } from "./RailComb";
import { type RailMark, RailMarks } from "./RailMarks";

/** All steps to scale on their own axis, with the driver's history and the events found. */
export function StepRail() {
  const { result, step, playing, set } = useBench("result", "step", "playing", "set");
  const contents = useContents(result);
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the axis is there once the contents are
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, [contents.data !== undefined]);
  usePlaying();
  const asked = useFailure(useBench((s) => s.bay) === "strength");
  const failure = asked.data?.more.first_failure;
  const cycle = cycleOf(contents.data, useBench("reading", "step"));
  const combed = useBench((s) => s.bay) === "motion";
  if (!contents.data) return <div className="step-rail" />;
  // One step has no way to go, unless it has a cycle.
  if (contents.data.steps.length < 2 && !cycle) return null;
  const { steps, rail } = contents.data;
  // Steps made of others have no place on the axis: they stand behind its end, apart.
  const own = steps.filter((s) => !s.made_of);
  const first = own[0]!.value;
  const span = own[own.length - 1]!.value - first || 1;
  const many = steps.length - own.length;
  const apart = many ? Math.min(16 * many + 12, 0.4 * width) : 0;
  const end = width - 8 - apart;
  const x = (i: number) =>
    i < own.length
      ? 8 + ((steps[i]!.value - first) / span) * (end - 8)
      : end + 12 + ((i - own.length + 0.5) / many) * (apart - 12);
  const driver = rail.driver;
  const reach = driver ? Math.max(...driver.values.map(Math.abs), 1e-12) : 1;
  const nearest = (px: number) => {
    let best = 0;
    for (let i = 1; i < steps.length; i++) if (Math.abs(x(i) - px) < Math.abs(x(best) - px)) best = i;
    return best;
  };
  const pick = (e: React.PointerEvent) => {
    const left = (e.currentTarget as SVGElement).getBoundingClientRect().left;
    set({ step: nearest(e.clientX - left), playing: false });
  };
  const here = Math.min(step, steps.length - 1);
  const marks: RailMark[] = rail.marks.map((m) => {
    const label = `${m.label}, ${steps[m.step]!.label}`;
    return { kind: m.kind, step: m.step, x: x(m.step), label, title: label };
  });
  const fails = failure?.fails ? failure.at : null;
  if (failure && fails !== null)
    marks.push({
      kind: "failure",
      step: failure.step,
      x: 8 + ((fails - first) / span) * (end - 8),
      label: `first ply failure, ${failure.kind} ${figure(fails, 4)} ${failure.unit}`.trimEnd(),
      title: `first ply failure at ${failure.kind} ${figure(fails, 4)}: ${failure.mode}`,
    });
  const go = (d: number) => set({ step: Math.min(steps.length - 1, Math.max(0, here + d)), playing: false });
  return (
    <div className="step-rail">
      <button type="button" className="ghost" aria-label="Step back" onClick={() => go(-1)}>
        <SkipBack size={14} />
      </button>
      <button
        type="button"
        className="ghost"
        aria-label={playing ? "Pause" : "Play"}
        onClick={() => set({ playing: !playing })}
      >
        {playing ? <Pause size={14} /> : <Play size={14} />}
      </button>
      <button type="button" className="ghost" aria-label="Step on" onClick={() => go(1)}>
        <SkipForward size={14} />
      </button>
      <div className="rail-axis" ref={box}>
        <svg
          width={width}
          height="38"
          role="group"
          aria-label="Steps"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            pick(e);
          }}
          onPointerMove={(e) => e.buttons === 1 && pick(e)}
        >
          <line className="rail-base" x1="8" x2={end} y1="17" y2="17" />
          {steps.slice(own.length).map((s) => (
            <path key={s.index} className="rail-made" d={`M${x(s.index)} 12l5 5-5 5-5-5z`}>
              <title>{s.label}</title>
            </path>
          ))}
          {driver && (
            <polyline
              className="rail-driver"
              points={driver.values.map((v, i) => `${x(i).toFixed(1)},${(17 - (13 * v) / reach).toFixed(1)}`).join(" ")}
            >
              <title>{`mean displacement ${driver.axis} of set ${driver.set}, ${driver.unit}`}</title>
            </polyline>
          )}
          {!driver &&
            own.map((s) => (
              <line key={s.index} className="rail-tick" x1={x(s.index)} x2={x(s.index)} y1="13" y2="21" />
            ))}
          {combed && <RailComb x={x} steps={own} />}
          <RailMarks marks={marks} onStep={(s) => set({ step: s, playing: false })} />
          <g
            className="rail-here"
            transform={`translate(${x(here)} 0)`}
            data-testid="rail-here"
            data-step={here}
            role="slider"
            tabIndex={0}
            aria-label="Step"
            aria-valuemin={1}
            aria-valuemax={steps.length}
            aria-valuenow={here + 1}
            aria-valuetext={steps[here]!.label}
          >
            <line y1="2" y2="31" />
            <circle cy="5" r="4.500" />
          </g>
        </svg>
      </div>
      <div className="rail-word fig" title={steps[here]!.label}>
        {steps[here]!.label}
      </div>
      <PhaseWheel />
      <PlayingMenu count={own.length} />
    </div>
  );
}

/** The phase in view, in degrees: of a harmonic as it is read, of a mode as it is drawn. */
const phaseNow = (s: BenchState) => swingOf(s) || Number(s.reading?.phase) || 0;

/** Steps on while playing; the next step is fetched before it is shown. */
function usePlaying(): void {
  const { playing, result, play } = useBench("playing", "result", "play");
  const contents = useContents(result);
  const prefetch = usePrefetch();
  const count = contents.data?.steps.filter((s) => !s.made_of).length ?? 0;
  const moves = contents.data?.moves ?? false;
  const throughPhase = play.through === "phase";
  const contentsNow = useRef(contents.data);
  contentsNow.current = contents.data;
  const fetchStep = useRef<(...asked: Parameters<typeof prefetch>) => Promise<unknown>>(prefetch);
  const cutsOf = usePrefetchCuts();
  const alongsideOf = usePrefetchAlongside();
  fetchStep.current = (...asked) => Promise.all([prefetch(...asked), cutsOf(asked[0]), alongsideOf(asked[0])]);
  useEffect(() => {
    if (!playing || result === null || (count < 2 && !throughPhase)) return;
    let stopped = false;
    const turn = async () => {
      let last = phaseNow(activePane.getState());
      while (!stopped) {
        const started = performance.now();
        const state = activePane.getState();
        const cycle = cycleOf(contentsNow.current, state);
        if (!cycle) break;
        last += state.play.way === "back" ? -15 : 15;
        const to = atPhase(state, cycle, last);
        if (to.reading) await fetchStep.current(state.step, moves, to.reading).catch(() => undefined);
        const rest = 1000 / state.speed - (performance.now() - started);
        await new Promise((r) => window.setTimeout(r, Math.max(rest, 4)));
        if (!stopped && activePane.getState().playing) activePane.setState(to);
      }
    };
    let way: 1 | -1 = activePane.getState().play.way === "back" ? -1 : 1;
    const run = async () => {
      while (!stopped) {
        const started = performance.now();
        const state = activePane.getState();
        const next = nextStep(state.play, count, state.step, way);
        way = next.way;
        if (state.reading) await fetchStep.current(next.step, moves).catch(() => undefined);
        const rest = 1000 / state.speed - (performance.now() - started);
        await new Promise((r) => window.setTimeout(r, Math.max(rest, 4)));
        if (!stopped && activePane.getState().playing) activePane.setState({ step: next.step });
      }
    };
    void (throughPhase ? turn() : run());
    return () => {
      stopped = true;
    };
  }, [playing, result, count, moves, throughPhase]);
}
