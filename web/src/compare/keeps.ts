import type { Offer } from "../exhibits/offers";
import {
  useDifference,
  useDifferenceWords,
  useGoverning,
  useGoverningWords,
  useSideBySide,
  useStudy,
  useStudyWords,
  useTableWords,
} from "../lines/compare";
import { plotPicture } from "../plots/Plot";
import { studyFigure } from "./plots";

/** The difference of the two results, what governs, and the study over meshes. */
export function useCompareOffers(): Offer[] {
  const [difference, study] = [useDifference().data, useStudy().data];
  const [governing, cases] = [useGoverning().data, useGoverningWords()];
  const [tabled, table] = [useSideBySide().data, useTableWords()];
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
      name: "side by side",
      label: "the table of results",
      of: "table",
      usual: "Results side by side",
      sentence: tabled?.sentence,
      questions: table ? [{ kind: "side-by-side", words: table }] : [],
    },
    {
      name: "governing",
      label: "which case governs",
      of: "table",
      usual: "Which case governs",
      sentence: governing?.sentence,
      questions: cases ? [{ kind: "governing", words: cases }] : [],
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
