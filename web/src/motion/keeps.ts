import type { Kind, Words } from "../api/asking";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import type { Offer } from "../exhibits/offers";
import {
  useAllOverTime,
  useKindOfSteps,
  useMac,
  useMacWords,
  useModes,
  useModesWords,
  useOverTimeWords,
  useResponse,
  useResponses,
  useResponsesWords,
  useResponseWords,
  useShares,
  useSharesWords,
} from "../lines/motion";
import { plotPicture } from "../plots/Plot";
import { sharesFigure, timeFigure } from "./plots";
import { responseFigure } from "./responseFigure";

/** Modes, pairs of shapes, the response, the shares of modes, and what is read off a motion over time. */
export function useMotionOffers(): Offer[] {
  const { result, motion, step } = useBench("result", "motion", "step");
  const here = useContents(result).data?.steps[step];
  const kind = useKindOfSteps();
  const [modes, mac, response, shares] = [useModes().data, useMac().data, useResponse().data, useShares().data];
  const words = { modes: useModesWords(), mac: useMacWords(), response: useResponseWords(), shares: useSharesWords() };
  const besideWords = useResponsesWords();
  const beside = useResponses().data;
  const held = besideWords ? beside : undefined;
  const overTime = useOverTimeWords();
  const asked = useAllOverTime();
  const told = asked[motion.of].data;
  const of = <K extends Kind>(what: K, with_: Words<K> | null) => (with_ ? [{ kind: what, words: with_ }] : []);
  const offers: (Offer & { for: string[] })[] = [
    {
      for: ["mode"],
      name: "modes",
      label: "the modes",
      of: "table",
      usual: "Modes",
      sentence: modes?.sentence,
      questions: of("modes", words.modes),
    },
    {
      for: ["mode"],
      name: "shapes",
      label: "the pairs of shapes",
      of: "table",
      usual: "Shapes held against each other",
      sentence: mac?.sentence,
      questions: of("mac", words.mac),
    },
    {
      for: ["frequency"],
      name: "response",
      label: "the response",
      of: "curve",
      usual: "Frequency response",
      sentence: response?.sentence,
      questions: of("response", words.response),
      picture: (caption) =>
        plotPicture({ ...responseFigure(response!, motion.drawn, null, held?.more.curves), caption }, "png"),
    },
    ...(held?.state
      ? [
          {
            for: ["frequency"],
            name: "agreement",
            label: "the agreement of the responses",
            of: "table" as const,
            usual: "Response against a test",
            sentence: held.sentence,
            questions: of("responses", besideWords),
          },
        ]
      : []),
    {
      for: ["frequency", "time"],
      name: "shares",
      label: "the shares of modes",
      of: "curve",
      usual: "Shares of modes",
      sentence: shares?.sentence,
      questions: of("mode-shares", words.shares),
      picture: (caption) =>
        plotPicture({ ...sharesFigure(shares!, here?.kind ?? "", here?.unit ?? ""), caption }, "png"),
    },
    {
      for: ["time"],
      name: motion.of,
      label: `the ${motion.of}`,
      of: "curve",
      usual: {
        spectrum: "Spectrum",
        spectrogram: "Spectrogram",
        shock: "Shock response spectrum",
        decay: "Decay",
        rebound: "Rebound",
      }[motion.of],
      sentence: told?.sentence,
      questions: of(motion.of as Kind, overTime),
      picture: (caption) => plotPicture({ ...timeFigure(motion.of, asked)!, caption }, "png"),
    },
  ];
  return offers.filter((o) => kind !== undefined && o.for.includes(kind)).map(({ for: _, ...offer }) => offer);
}
