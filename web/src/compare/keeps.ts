import type { Offer } from "../exhibits/offers";
import { useDifference, useDifferenceWords, useStudy, useStudyWords } from "../lines/compare";
import { plotPicture } from "../plots/Plot";
import { studyFigure } from "./plots";

/** The difference of the two results, and the study over meshes. */
export function useCompareOffers(): Offer[] {
  const [difference, study] = [useDifference().data, useStudy().data];
  const words = { difference: useDifferenceWords(), study: useStudyWords() };
  return [
    {
      name: "difference",
      label: "the difference",
      of: "table",
      usual: "Difference of two results",
      sentence: difference?.sentence,
      questions: words.difference ? [{ kind: "difference", words: words.difference }] : [],
    },
    {
      name: "study",
      label: "the meshes",
      of: "curve",
      usual: "Value over finer meshes",
      sentence: study?.sentence,
      questions: words.study ? [{ kind: "converge", words: words.study }] : [],
      picture: (caption) => plotPicture({ ...studyFigure(study!), caption }, "png"),
    },
  ];
}
