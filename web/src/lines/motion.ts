import { type Kind, useQuestion, type Words } from "../api/asking";
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
  const { result, motion } = useBench("result", "motion");
  const { scaled } = motion.ways;
  return useKindOfSteps() === "mode" && result !== null ? { result, scaled } : null;
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
  const db = motion.drawn === "level" || motion.drawn === "bands";
  const { reference, weighting, unwrapped } = motion.ways;
  // A reference and a weighting are those of a level alone.
  const level = db ? { reference, weighting } : {};
  return { result, ...told({ ...reading, phase: "", against: null }), at: motion.at, db, ...level, unwrapped };
}

/** The words of the responses that stand beside it; null where none does. */
export function useResponsesWords(): Words<"responses"> | null {
  const words = useResponseWords();
  const { beside, ways } = useBench((s) => s.motion);
  if (!words || !beside.length) return null;
  const limits: Words<"responses"> = {
    frequency: ways.offFrequency ?? undefined,
    amplitude: ways.offAmplitude ?? undefined,
    frac: ways.leastFrac ?? undefined,
  };
  return { ...words, beside, ...limits };
}

export const useResponses = () => useQuestion("responses", useResponsesWords());

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

/** What is read off a motion over time, each a kind of question. */
export type OverTime = "spectrum" | "spectrogram" | "shock" | "decay" | "rebound";

/** The words of the reading in view over time, at the place, for what is read off it. */
export function useOverTimeWords(): Words<Kind> | null {
  const { result, reading, motion } = useBench("result", "reading", "motion");
  if (useKindOfSteps() !== "time" || !reading || result === null || !motion.at) return null;
  const { ways, of } = motion;
  if (of === "rebound") {
    const { meets, pushed, moves } = ways;
    const words: Words<"rebound"> = { result, at: motion.at, axis: motion.axis, meets, pushed, part: moves };
    return words as Words<Kind>;
  }
  const own = {
    spectrum: { window: ways.window, pieces: ways.pieces },
    spectrogram: { window: ways.window, lasts: ways.lasts },
    shock: { damping: ways.damping },
    decay: { within: ways.within },
  }[of];
  const reduce = motion.at.startsWith("set:") ? ("mean" as const) : null;
  const words = { result, ...told({ ...reading, over: "step", against: null }), at: motion.at, reduce, ...own };
  return words as Words<Kind>;
}

export function useOverTime<K extends OverTime>(kind: K) {
  const words = useOverTimeWords();
  const of = useBench((s) => s.motion).of;
  return useQuestion(kind, of === kind ? (words as Words<K> | null) : null);
}

/** All of them; what is not looked at is not asked. */
export function useAllOverTime() {
  return {
    spectrum: useOverTime("spectrum"),
    spectrogram: useOverTime("spectrogram"),
    shock: useOverTime("shock"),
    decay: useOverTime("decay"),
    rebound: useOverTime("rebound"),
  };
}
