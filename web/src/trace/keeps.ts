import type { TraceSpec } from "../api/client";
import { useCurve, useCycles, useMatch, useOverlay } from "../api/queries";
import { useBench, usePane } from "../bench/store";
import type { Offer } from "../exhibits/offers";
import { useFront, useFrontWords } from "../lines/front";
import { loopPlot } from "../plots/curves";
import { plotPicture } from "../plots/Plot";
import { frontFigure } from "./frontPlot";

/** What a side of a curve is of, in a word; its sentence says the rest. */
const wordOf = ({ curve, field }: TraceSpec) =>
  (curve?.replace(/^total:/, "").replace(/^step$/, "the steps") || field || "").replaceAll("_", " ");

/** The curve in view, and its agreement with the record in view. */
export function useCurveOffers(): Offer[] {
  const test = useBench((s) => s.test);
  const pane = usePane();
  const [front, words] = [useFront(), useFrontWords()];
  const pairing = useCurve();
  const match = useMatch(pairing?.id ?? null, test);
  const overlay = useOverlay(pairing?.id ?? null, test);
  const cycles = useCycles();
  const alone = cycles && `; cycle ${cycles} alone`;
  const sentence = pairing && `${pairing.y.sentence}; against ${pairing.x.sentence}${alone}`;
  const agreement = { kind: "agreement", words: { pairing: pairing?.id, test, ...(cycles && { cycles }) } };
  return [
    {
      name: "curve",
      label: "the curve",
      of: "curve",
      usual: pairing ? `${pairing.name}: ${wordOf(pairing.y_spec)} against ${wordOf(pairing.x_spec)}` : "Curve",
      sentence,
      questions: [
        { kind: "curve", words: { pairing: pairing?.id, ...(cycles && { only: cycles }) } },
        ...(overlay.data && match.data ? [agreement] : []),
      ],
      picture: (caption) => {
        const { step } = pane.getState();
        const here = { x: pairing!.x.values[step] ?? null, y: pairing!.y.values[step] ?? null };
        return plotPicture(
          { ...loopPlot(pairing!, overlay.data, undefined, pane.getState().cycles), here, caption },
          "png",
        );
      },
    },
    {
      name: "front",
      label: "the front",
      of: "curve",
      usual: "A front through the steps",
      sentence: front.data?.sentence,
      questions: words ? [{ kind: "front", words }] : [],
      picture: (caption) => plotPicture({ ...frontFigure(front.data!, pane.getState().step), caption }, "png"),
    },
    {
      name: "table",
      label: "the agreement",
      of: "table",
      usual: "Agreement with the test",
      sentence: match.data && sentence,
      questions: [agreement],
    },
  ];
}
