import { useBench } from "../bench/store";
import type { Offer } from "../exhibits/offers";
import { useEnvelope, useEnvelopeWords, useStack, useStackWords, useTested, useTestedWords } from "../lines/strength";
import { plotPicture } from "../plots/Plot";
import { envelopeFigure, testedFigure } from "../plots/StrengthPlots";

/** The stack in view, the envelope with its coupons, and the tests of parts. */
export function useStrengthOffers(): Offer[] {
  const step = useBench((s) => s.step);
  const [stack, envelope, tested] = [useStack().data, useEnvelope().data, useTested().data];
  const words = { stack: useStackWords(), envelope: useEnvelopeWords(), tested: useTestedWords() };
  const asked = (kind: keyof typeof words) => (words[kind] ? [{ kind, words: words[kind] }] : []);
  return [
    {
      name: "stack",
      label: "the stack",
      of: "table",
      usual: "Stack through the thickness",
      sentence: stack?.sentence,
      questions: asked("stack"),
    },
    {
      name: "envelope",
      label: "the envelope",
      of: "curve",
      usual: "Envelope with coupons",
      sentence: envelope?.sentence,
      questions: asked("envelope"),
      picture: (caption) => plotPicture({ ...envelopeFigure(envelope!, step), caption }, "png"),
    },
    {
      name: "tested",
      label: "the tests",
      of: "table",
      usual: "Predicted against tested",
      sentence: tested?.sentence,
      questions: asked("tested"),
      picture: (caption) => plotPicture({ ...testedFigure(tested!), caption }, "png"),
    },
  ];
}
