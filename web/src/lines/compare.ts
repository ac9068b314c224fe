import { useQuestion, type Words } from "../api/asking";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";

/** The words a refinement study of the reading in view is asked by. */
export function useStudyWords(): Words<"converge"> | null {
  const { result, reading, step, study } = useBench("result", "reading", "step", "study");
  if (!reading || result === null) return null;
  const { results, take, size } = study;
  return {
    result,
    ...told({ ...reading, against: null }),
    step,
    results: (results ?? []).map(String),
    extremes: true,
    take,
    size,
  };
}

export const useStudy = () => useQuestion("converge", useStudyWords());

/** The words of the difference between the result in view and the one it is compared with. */
export function useDifferenceWords(): Words<"difference"> | null {
  const { result, reading, step, second } = useBench("result", "reading", "step", "second");
  if (!reading || result === null || second === null || second === result) return null;
  return { result, ...told({ ...reading, against: null }), step, less: String(second) };
}

export const useDifference = () => useQuestion("difference", useDifferenceWords());
