import type { Schemas, ValuesHead } from "../api/client";
import type { KeyChoice } from "../bench/store";
import { chooseMap, isDiverging } from "../theme/colours";

/** The limits the key shows: typed ones, else those of this step or of all steps, balanced about zero for a diverging map. */
export function limitsOf(
  key: KeyChoice,
  head: ValuesHead | undefined,
  range: Schemas["RangeOut"] | undefined,
): [number, number] {
  const all = key.fit === "all" && range && range.low !== null && range.high !== null;
  let low = all ? range.low! : (head?.min?.value ?? 0);
  let high = all ? range.high! : (head?.max?.value ?? 1);
  const map = chooseMap(key.map, head?.signed ?? false);
  if (isDiverging(map) && low < 0 && high > 0) {
    const reach = Math.max(-low, high);
    low = -reach;
    high = reach;
  } else if (head?.limit != null && low >= 0 && !key.log) {
    // From nothing, and as far as the limit at least: the break is always in sight.
    low = 0;
    high = Math.max(high, head.limit);
  } else if (!isDiverging(map) && low > 0 && low < 0.25 * high && !key.log) {
    low = 0;
  }
  if (key.low !== null) low = key.low;
  if (key.high !== null) high = key.high;
  if (!(high > low)) high = low + Math.max(Math.abs(low) * 1e-6, 1e-12);
  return [low, high];
}
