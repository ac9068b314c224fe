import { useQuestion, type Words } from "../api/asking";
import { useReview } from "../api/queries";
import { useBench } from "../bench/store";

/** The words by which the curve in view is asked of other results; null where none is chosen. */
export function useCurvesOfWords(): Words<"curves-of"> | null {
  const { result, pairing, also } = useBench("result", "pairing", "also");
  const review = useReview();
  const there = (review.data?.results ?? []).map((r) => r.id);
  const results = also.filter((id) => id !== result && there.includes(id)).map(String);
  return pairing === null || !results.length ? null : { pairing, results };
}

export const useCurvesOf = () => useQuestion("curves-of", useCurvesOfWords());
