import { useQuestion, type Words } from "../api/asking";
import { useContents } from "../api/queries";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";

/** What the steps of the result in view are told by: time, mode, frequency, ... */
export function useKindOfSteps(): string | undefined {
  const { result, step } = useBench("result", "step");
  const steps = useContents(result).data?.steps;
  return (steps?.[step] ?? steps?.[0])?.kind;
}

/** The words by which the modes of the result in view are asked for; null where its steps are none. */
export function useModesWords(): Words<"modes"> | null {
  const result = useBench((s) => s.result);
  return useKindOfSteps() === "mode" && result !== null ? { result } : null;
}

export const useModes = () => useQuestion("modes", useModesWords());

/** The words by which the modes in view are held against those of another result. */
export function useMacWords(): Words<"mac"> | null {
  const { result, motion } = useBench("result", "motion");
  return useKindOfSteps() === "mode" && result !== null && motion.other !== null && motion.other !== result
    ? { result, other: String(motion.other) }
    : null;
}

export const useMac = () => useQuestion("mac", useMacWords());

/** The words of the frequency response of the reading in view at the place. */
export function useResponseWords(): Words<"response"> | null {
  const { result, reading, motion } = useBench("result", "reading", "motion");
  if (useKindOfSteps() !== "frequency" || !reading || result === null || !motion.at) return null;
  return { result, ...told({ ...reading, phase: "", against: null }), at: motion.at, db: motion.drawn === "level" };
}

export const useResponse = () => useQuestion("response", useResponseWords());

/** The words of the shares of modes in the motion in view. */
export function useSharesWords(): Words<"mode-shares"> | null {
  const { result, motion, step } = useBench("result", "motion", "step");
  const kind = useKindOfSteps();
  if (kind === undefined || kind === "mode" || result === null || !motion.at || motion.other === null) return null;
  const { at, axis, modes, other } = motion;
  return { result, modes: String(other), at, measure: axis, step, chosen: modes };
}

export const useShares = () => useQuestion("mode-shares", useSharesWords());

/** The words of the reading in view over time, at the place. */
export function useOverTimeWords() {
  const { result, reading, motion } = useBench("result", "reading", "motion");
  if (useKindOfSteps() !== "time" || !reading || result === null || !motion.at) return null;
  const reduce = motion.at.startsWith("set:") ? ("mean" as const) : null;
  return { result, ...told({ ...reading, over: "step", against: null }), at: motion.at, reduce };
}

export function useOverTime<K extends "spectrum" | "shock" | "decay">(kind: K) {
  const words = useOverTimeWords();
  const of = useBench((s) => s.motion).of;
  return useQuestion(kind, of === kind ? (words as Words<K> | null) : null);
}
