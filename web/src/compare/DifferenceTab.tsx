import { useContents, useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { useDifference, useDifferenceWords } from "../lines/compare";
import { figure, percent } from "../reading/format";

/** The reading in view less the same of another result: in figures, and on the model. */
export function DifferenceTab() {
  const { result, second, reading, set, setReading } = useBench("result", "second", "reading", "set", "setReading");
  const review = useReview();
  const contents = useContents(result);
  const words = useDifferenceWords();
  const asked = useDifference();
  const others = (review.data?.results ?? []).filter((r) => r.id !== result);
  if (!others.length)
    return (
      <div className="quiet">
        There is one result in this review. Take another one in (Intake, key 1) to hold the two against each other.
      </div>
    );
  const against = second === null ? null : `result=${second}`;
  const onModel = against !== null && reading?.against === against;
  return (
    <>
      <h3>{contents.data?.name}, minus</h3>
      <SelectField
        label="The same of"
        name="The other result"
        value={second === null ? "" : String(second)}
        options={[
          { value: "", label: "choose a result" },
          ...others.map((r) => ({ value: String(r.id), label: r.name })),
        ]}
        onSet={(v) => {
          set({ second: v === "" ? null : Number(v) });
          if (reading?.against?.startsWith("result=")) setReading({ against: v === "" ? null : `result=${v}` });
        }}
      />
      {words && asked.error && <Refused error={asked.error} />}
      {words && !asked.error && !asked.data && <div className="quiet">The two are held against each other …</div>}
      {words && !asked.error && asked.data && (
        <div className={asked.isPlaceholderData ? "former" : ""}>
          <table className="figures" data-testid="difference-figures">
            <tbody>
              {asked.data.figures.map((f) => (
                <tr key={f.label} title={f.how}>
                  <td className="word">{f.label}</td>
                  <td>
                    {f.label === "share without" ? percent(f.value, 3) : `${figure(f.value, 4)} ${f.unit}`.trimEnd()}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="small-line quiet">{asked.data.sentence}</div>
          {asked.data.caveats.map((c) => (
            <div className="caveat caveat-in" key={c}>
              {c}
            </div>
          ))}
          <div className="row-line actions">
            <button
              type="button"
              className={onModel ? "ghost" : "btn btn-primary btn-sm"}
              onClick={() => setReading({ against: onModel ? null : against })}
            >
              {onModel ? "Show the result itself" : "Show on the model"}
            </button>
            <AnswerLeaves what="Figures" kind="difference" words={words} name="difference" />
          </div>
        </div>
      )}
    </>
  );
}
