import { useQuestion, type Words } from "../api/asking";
import { useAlso } from "./also";
import { useProfiles } from "./profiles";

/** The words by which the first profile in view is asked of other results; null where none is chosen. A path that is kept is asked
 * for by its name, so that a result that has one of that name is read along its own. */
export function useProfilesOfWords(): Words<"profiles-of"> | null {
  const first = useProfiles(true).find((p) => !p.held && p.answer);
  const results = useAlso();
  if (!first || !results.length) return null;
  const { formula, test, linearise, named, ...words } = first.words;
  const line = first.id === null || first.dashed ? {} : { named: first.id };
  return { ...words, ...line, results };
}

export const useProfilesOf = () => useQuestion("profiles-of", useProfilesOfWords());
