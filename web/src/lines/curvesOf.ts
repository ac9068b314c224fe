import { useQuestion, type Words } from "../api/asking";
import { useBench } from "../bench/store";
import { useAlso } from "./also";

/** The words by which the curve in view is asked of other results; null where none is chosen. */
export function useCurvesOfWords(): Words<"curves-of"> | null {
  const pairing = useBench((s) => s.pairing);
  const results = useAlso();
  return pairing === null || !results.length ? null : { pairing, results };
}

export const useCurvesOf = () => useQuestion("curves-of", useCurvesOfWords());
