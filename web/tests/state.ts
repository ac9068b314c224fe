import type { BenchState } from "../src/bench/store";
import { freshReading, useBench } from "../src/bench/store";

/** The bench as it starts, with changes. */
export function bench(change: Partial<BenchState> = {}): BenchState {
  return { ...useBench.getInitialState(), result: 2, reading: freshReading("stress", "von-mises"), ...change };
}
