import { AnswerLeaves } from "../controls/AnswerLeaves";
import { OtherResults } from "../controls/OtherResults";
import { useCurvesOf, useCurvesOfWords } from "../lines/curvesOf";
import { figure, percent } from "../reading/format";

/** The curve in view of other results, on the same plot, and how far each agrees with this one. */
export function CurveOfOthers() {
  const asked = useCurvesOf();
  const words = useCurvesOfWords();
  return (
    <OtherResults
      what="curve"
      tab="loop"
      asked={words !== null}
      rows={asked.data?.more.curves}
      error={asked.error}
      said={(c) => {
        const ratios = Object.entries(c.ratios).map(([name, ratio]) => `${name} ${figure(ratio, 4)}`);
        return `This one over it: ${ratios.join(", ")}${c.deviation === null ? "" : `; RMS ${percent(c.deviation, 3)}`}`;
      }}
    >
      {words && <AnswerLeaves what="Curves" kind="curves-of" words={words} name="curve of several results" />}
    </OtherResults>
  );
}
