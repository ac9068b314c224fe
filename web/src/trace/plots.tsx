import { useMemo } from "react";
import { useCurve, useMatch, useNamed, useOverlay, usePairings } from "../api/queries";
import { useBench } from "../bench/store";
import { useCurvesOf } from "../lines/curvesOf";
import { isFollowed } from "../lines/front";
import { CycleTable } from "../plots/CycleTable";
import { energyPlot, historyPlot, loopPlot, residualPlot } from "../plots/curves";
import { NamedLegend, NamedPlot } from "../plots/NamedPlot";
import { Plot } from "../plots/Plot";
import { type StrataTab, some } from "../plots/tabs";
import { FrontPlot, FrontTable } from "./frontPlot";

type OfPairing = "loop" | "energy" | "residual" | "driver" | "force";

/** Whether there is a curve, one that cannot be drawn any more, or the bay that makes one is open. */
function useAnyCurve(): boolean {
  const { result, bay, pairing } = useBench("result", "bay", "pairing");
  const broken = usePairings(result).data?.find((p) => p.id === pairing)?.error;
  return Boolean(useCurve() || broken) || bay === "trace";
}

function useAnyCycle(): boolean {
  const found = useCurve();
  return useAnyCurve() && (!found || found.loops.cycles.length > 0);
}

function useAnyMatch(): boolean {
  const test = useBench((s) => s.test);
  const match = useMatch(useCurve()?.id ?? null, test);
  return useAnyCurve() && match.data !== undefined;
}

function useAnyNamed(): boolean {
  const { result, bay } = useBench("result", "bay");
  return some(useNamed(result)) || bay === "trace";
}

const ofPairing = (name: OfPairing, label: string, title: string, useThere = useAnyCurve): StrataTab => ({
  name,
  label,
  title,
  plot: () => <PairingPlot view={name} />,
  table: () => <CycleTable />,
  pairing: true,
  useThere,
});

function useFrontThere(): boolean {
  return useBench((s) => isFollowed(s.front));
}

export const tracePlots: StrataTab[] = [
  ofPairing("loop", "Loop", "The curve in view, force against driver"),
  ofPairing("energy", "Energy", "Energy of each cycle", useAnyCycle),
  ofPairing("residual", "Residual", "Model minus test, at the test's points", useAnyMatch),
  ofPairing("driver", "Driver", "The driver over the steps"),
  ofPairing("force", "Force", "The force over the steps"),
  {
    name: "curves",
    label: "Curves",
    title: "Curves by name, over the steps",
    plot: () => <NamedPlot />,
    table: () => <NamedLegend />,
    useThere: useAnyNamed,
  },
  {
    name: "front",
    label: "Front",
    title: "Where the reading has a value, at every step",
    plot: () => <FrontPlot />,
    table: () => <FrontTable />,
    useThere: useFrontThere,
  },
];

/** One view of the curve in view. */
function PairingPlot({ view }: { view: OfPairing }) {
  const { step, test, cycles, set } = useBench("step", "test", "cycles", "set");
  const found = useCurve();
  const match = useMatch(found ? found.id : null, test).data;
  const record = useOverlay(found ? found.id : null, test).data;
  const others = useCurvesOf().data?.more.curves;
  const plot = useMemo(() => {
    if (!found) return null;
    if (view === "energy") return energyPlot(found, match);
    if (view === "residual") return match ? residualPlot(found, match) : null;
    if (view === "driver") return historyPlot(found, "x");
    if (view === "force") return historyPlot(found, "y");
    return loopPlot(found, record, others, cycles);
  }, [found, record, match, others, cycles, view]);
  if (!found || !plot) return null;
  const here =
    view === "energy" || view === "residual"
      ? undefined
      : view === "loop"
        ? { x: found.x.values[step] ?? null, y: found.y.values[step] ?? null }
        : { x: found.steps.values[step] ?? null, y: found[view === "driver" ? "x" : "y"].values[step] ?? null };
  return (
    <Plot
      {...plot}
      here={here}
      onStep={(s) => set({ step: s, playing: false })}
      label={
        view === "residual"
          ? `model minus test, ${found.y.sentence}`
          : `${found.y.sentence}; against ${found.x.sentence}${cycles.length ? `; cycle ${cycles.join(", ")} alone` : ""}`
      }
    />
  );
}
