import { useQuestion, type Words } from "../api/asking";
import type { Schemas } from "../api/client";
import { useKept } from "../api/kept";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";

export type GaugeRow = Schemas["GaugeRow"];

/** The gauge list in view: the chosen one, else the first. */
export function useGaugeList() {
  const { result, gauges } = useBench("result", "gauges");
  const kept = useKept("gauges", result);
  return { kept, list: kept.data?.find((g) => g.id === gauges) ?? kept.data?.[0] };
}

/** The words a gauge list in view is asked by. */
export function useGaugeWords(every = false): Words<"gauges"> | null {
  const { result, reading, step, along } = useBench("result", "reading", "step", "along");
  const { list } = useGaugeList();
  if (!list || !reading || !list.words.points.length) return null;
  return { result, ...told(reading), ...(every ? {} : { step }), named: list.id, along, every };
}

export function useGauges(wanted = true, every = false) {
  const words = useGaugeWords(every);
  const revision = useGaugeList().list?.revision;
  return useQuestion("gauges", wanted ? words : null, revision);
}
