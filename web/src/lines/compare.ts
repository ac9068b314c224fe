import { useQuestion, type Words } from "../api/asking";
import { useTables } from "../api/kept";
import { useReview } from "../api/queries";
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

/** The words by which it is asked which step or combination governs the reading in view. */
export function useGoverningWords(): Words<"governing"> | null {
  const { result, reading, governing } = useBench("result", "reading", "governing");
  if (!reading || result === null) return null;
  return { result, ...told({ ...reading, over: "step", span: "all", when: false }), ...governing };
}

export const useGoverning = () => useQuestion("governing", useGoverningWords());

/** The table of several results in view: the one that was chosen, else the last that was made. */
export function useTableInView() {
  const { table, set } = useBench("table", "set");
  const tables = useTables();
  const shown = tables.data?.find((t) => t.id === table) ?? tables.data?.at(-1);
  return { tables, shown, set };
}

/** The words its lines are asked by. */
export function useTableWords(): Words<"side-by-side"> | null {
  const { shown } = useTableInView();
  const review = useReview();
  if (!shown) return null;
  // A result that is not there any more is left out.
  const there = (review.data?.results ?? []).map((r) => r.id);
  const results = (shown.words.results ?? []).filter((id) => there.includes(id)).map(String);
  return { results, lines: shown.words.lines };
}

export const useSideBySide = () => useQuestion("side-by-side", useTableWords());

/** The words of the difference between the result in view and the one it is compared with. */
export function useDifferenceWords(): Words<"difference"> | null {
  const { result, reading, step, second } = useBench("result", "reading", "step", "second");
  if (!reading || result === null || second === null || second === result) return null;
  return { result, ...told({ ...reading, against: null }), step, less: String(second) };
}

export const useDifference = () => useQuestion("difference", useDifferenceWords());
