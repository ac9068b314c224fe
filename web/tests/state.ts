import type { BenchState } from "../src/bench/store";
import { activePane, freshReading, panes } from "../src/bench/store";

/** The bench as it starts, with changes. */
export function bench(change: Partial<BenchState> = {}): BenchState {
  panes.reset();
  return { ...activePane.getState(), result: 2, reading: freshReading("stress", "von-mises"), ...change };
}
