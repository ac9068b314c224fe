import { useQuestion, type Words } from "../api/asking";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";

/** The words by which the front of the reading in view is followed; null until a value is chosen. */
export function useFrontWords(): Words<"front"> | null {
  const { result, reading, front } = useBench("result", "reading", "front");
  if (!reading || result === null || front.value === null) return null;
  const { value, along } = front;
  return { result, ...told({ ...reading, over: "step", span: "all", when: false, against: null }), value, along };
}

export const useFront = () => useQuestion("front", useFrontWords());
