import { useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { Section } from "../controls/Section";
import { useCurvesOf, useCurvesOfWords } from "../lines/curvesOf";
import { strokes } from "../plots/curves";
import { figure, percent } from "../reading/format";

/** The curve in view of other results, on the same plot, and how far each agrees with this one. */
export function OtherResults() {
  const { result, also, set } = useBench("result", "also", "set");
  const review = useReview();
  const asked = useCurvesOf();
  const words = useCurvesOfWords();
  const others = (review.data?.results ?? []).filter((r) => r.id !== result);
  if (!others.length) return null;
  const toggle = (id: number) =>
    set({ also: also.includes(id) ? also.filter((a) => a !== id) : [...also, id], strata: true, tab: "loop" });
  const curves = words ? (asked.data?.more.curves ?? []) : [];
  return (
    <Section
      name="other results"
      className="section"
      open={words !== null}
      summary={<>The same of other results {words && <span className="fig">{words.results!.length}</span>}</>}
    >
      <fieldset className="tick-list" aria-label="Results the curve is drawn of">
        {others.map((r) => (
          <label key={r.id}>
            <input type="checkbox" checked={also.includes(r.id)} onChange={() => toggle(r.id)} />
            <span>{r.name}</span>
          </label>
        ))}
      </fieldset>
      {words && asked.error && <Refused error={asked.error} />}
      {words && !asked.error && !asked.data && <div className="quiet">The others are asked …</div>}
      {curves.map((c, i) => (
        <div key={c.id} data-testid="curve-of">
          <div className="row-line small-line">
            <b>
              <span className="swatch" style={{ background: strokes[(i + 1) % strokes.length] }} /> {c.result}
            </b>
          </div>
          {c.error ? (
            <div className="caveat caveat-in">{c.error}</div>
          ) : (
            <>
              <div className={`verdict verdict-${c.state}`}>{c.verdict}</div>
              <div className="small-line quiet">
                This one over it:{" "}
                {Object.entries(c.ratios)
                  .map(([name, ratio]) => `${name} ${figure(ratio, 4)}`)
                  .join(", ")}
                {c.deviation !== null && `; RMS ${percent(c.deviation, 3)}`}
              </div>
            </>
          )}
        </div>
      ))}
      {words && asked.data && (
        <AnswerLeaves what="Curves" kind="curves-of" words={words} name="curve of several results" />
      )}
    </Section>
  );
}
