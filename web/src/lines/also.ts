import { useReview } from "../api/queries";
import { useBench } from "../bench/store";

/** The other results that are drawn beside the one in view, by their numbers, as far as they are there. */
export function useAlso(): string[] {
  const { result, also } = useBench("result", "also");
  const review = useReview();
  const there = (review.data?.results ?? []).map((r) => r.id);
  return also.filter((id) => id !== result && there.includes(id)).map(String);
}
