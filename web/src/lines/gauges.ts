import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Answer, question, useKept } from "../api/kept";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";

export interface GaugeRow {
  name: string;
  xyz: number[];
  inside: boolean;
  where: "inside" | "on the surface" | "outside";
  distance: number;
  at: number[];
  moved: number[];
  part: string;
  element: number;
  value: number | null;
  measured: number | null;
  deviation: number | null;
  share: number | null;
}

export interface Rosette {
  name: string;
  computed: { first: number; second: number; angle: number } | null;
  measured: { first: number; second: number; angle: number } | null;
  error?: string;
}

export const rowsOf = (answer: Answer) => (answer.more as unknown as { points: GaugeRow[] }).points;
export const rosettesOf = (answer: Answer) => (answer.more as unknown as { rosettes: Rosette[] }).rosettes;

/** The gauge list in view: the chosen one, else the first. */
export function useGaugeList() {
  const { result, gauges } = useBench("result", "gauges");
  const kept = useKept("gauges", result);
  return { kept, list: kept.data?.find((g) => g.id === gauges) ?? kept.data?.[0] };
}

/** The words a gauge list in view is asked by. */
export function useGaugeWords(every = false): object | null {
  const { result, reading, step, along } = useBench("result", "reading", "step", "along");
  const { list } = useGaugeList();
  if (!list || !reading || !list.words.points.length) return null;
  return { result, ...told(reading), ...(every ? {} : { step }), named: list.id, along, every };
}

export function useGauges(wanted = true, every = false) {
  const words = useGaugeWords(every);
  const revision = useGaugeList().list?.revision;
  return useQuery({
    queryKey: ["asked", "gauges", words, revision],
    enabled: words !== null && wanted,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => question("gauges", words!, signal),
  });
}
