import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { type Answer, type AnswerTo, questionQuery, type Words } from "../api/asking";
import type { Schemas } from "../api/client";
import { type Kept, type KeptWords, useKept } from "../api/kept";
import { useFilming } from "../bench/filming";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { lineWords } from "./kinds";

export type ProfileAnswer = AnswerTo<"profile">;

export interface DrawnProfile {
  /** The kept path's number; null for a line that is being made, or one that is held. */
  id: number | null;
  label: string;
  colour: string;
  dashed: boolean;
  held: boolean;
  words: Words<"profile">;
  answer: ProfileAnswer | undefined;
  error: Error | null;
  fetching: boolean;
}

export const lineColours = ["#9E3B23", "#2F7486", "#4F7343", "#B9791F", "#6B4E71", "#23282D"];

export const columnOf = (answer: Answer | undefined, at: number) =>
  (answer?.columns?.[at]?.values ?? []) as (number | null)[];

/** Places along a profile as they are undeformed, and how far each moves. */
export function placesOf(answer: ProfileAnswer, deformed: boolean): { xyz: number[]; moved: number[] }[] {
  const { moved } = answer.more;
  const [x, y, z] = [4, 5, 6].map((i) => columnOf(answer, i));
  return moved.map((d, i) => ({
    xyz: [x![i]!, y![i]!, z![i]!].map((v, k) => (deformed ? v - d[k]! : v)),
    moved: d,
  }));
}

/** The kept paths that are drawn. */
export function shownPaths(paths: number[] | null, kept: Kept<KeptWords["path"]>[]): Kept<KeptWords["path"]>[] {
  return paths === null ? kept.slice(0, 1) : kept.filter((p) => paths.includes(p.id));
}

/** All profiles that are drawn: the chosen paths, the line being made, and those that are held. */
export function useProfiles(wanted: boolean): DrawnProfile[] {
  const { result, reading, step, paths, draft, profile, held } = useBench(
    "result",
    "reading",
    "step",
    "paths",
    "draft",
    "profile",
    "held",
  );
  const kept = useKept("path", wanted ? result : null).data ?? [];
  const asked: Omit<DrawnProfile, "answer" | "error" | "fetching">[] = [];
  if (wanted && reading && result !== null) {
    const now = { result, ...told(reading), step, distance: profile.distance, shape: profile.shape };
    const first = { formula: profile.formula, test: profile.test ?? "", linearise: profile.linearise };
    const making = draft && lineWords(draft);
    const chosen = shownPaths(paths, kept).filter((p) => p.id !== draft?.id);
    if (making)
      asked.push({
        id: draft.id,
        label: draft.name || "new line",
        colour: "#2F7486",
        dashed: true,
        held: false,
        words: { ...now, ...making, ...first },
      });
    for (const p of chosen) {
      const { name, result: _, ...line } = p.words as Schemas["PathIn"];
      const colour = lineColours[kept.findIndex((k) => k.id === p.id) % lineColours.length]!;
      const alone = !making && p.id === chosen[0]!.id ? first : {};
      asked.push({ id: p.id, label: name, colour, dashed: false, held: false, words: { ...now, ...line, ...alone } });
    }
    held.forEach((h, i) => {
      const words = { ...h.words, distance: profile.distance, shape: profile.shape };
      asked.push({
        id: null,
        label: h.label,
        colour: lineColours[(i + 3) % lineColours.length]!,
        dashed: true,
        held: true,
        words,
      });
    });
  }
  const filming = useFilming((s) => s.on);
  const answers = useQueries({
    queries: asked.map((a) => ({
      ...questionQuery("profile", a.words),
      enabled: !filming,
      staleTime: 30_000,
      placeholderData: keepPreviousData,
    })),
  });
  return asked.map((a, i) => {
    const { data, error, isFetching } = answers[i]!;
    return { ...a, answer: error ? undefined : data, error, fetching: isFetching };
  });
}
