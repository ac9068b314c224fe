import { useQuestion, type Words } from "../api/asking";
import { told } from "../bench/readingChoice";
import { type FrontChoice, useBench } from "../bench/store";

/** Whether there is a front to follow: all but the edge of a surface need a value. */
export const isFollowed = ({ value, border }: FrontChoice): boolean => value !== null || border === "edge";

/** The words by which the front of the reading in view is followed; null until one is chosen. */
export function useFrontWords(): Words<"front"> | null {
  const { result, reading, front } = useBench("result", "reading", "front");
  if (!reading || result === null || !isFollowed(front)) return null;
  const { value, along, border } = front;
  return {
    result,
    ...told({ ...reading, over: "step", span: "all", when: false, against: null }),
    value,
    along,
    border,
  };
}

export const useFront = () => useQuestion("front", useFrontWords());
