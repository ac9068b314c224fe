import type { BenchState } from "../src/bench/store";
import { freshReading, panes, useBench } from "../src/bench/store";

/** The bench as it starts, with changes. */
export function bench(change: Partial<BenchState> = {}): BenchState {
  panes.reset();
  return { ...useBench.getState(), result: 2, reading: freshReading("stress", "von-mises"), ...change };
}
