import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { useSolverFailure } from "../lines/strength";
import { figure } from "../reading/format";

/** What the file itself says of failure, beside what is worked out here; nothing where it says nothing. */
export function FromFile() {
  const { result, step, criterion, reading, set } = useBench("result", "step", "criterion", "reading", "set");
  const asked = useSolverFailure();
  if (asked.error) return <Refused error={asked.error} />;
  const rows = asked.data ? asked.data.more.rows : [];
  if (!asked.data || rows.length === 0) return null;
  return (
    <section className={asked.isPlaceholderData ? "former" : ""} data-testid="from-file">
      <h3 className="sub">In the file</h3>
      <div className={`verdict verdict-${asked.data.state}`}>{asked.data.verdict}</div>
      {rows.map((r) => (
        <div key={r.field} className={reading?.field === r.field ? "chosen-row" : ""}>
          <div className="row-line">
            <button
              type="button"
              className="link"
              title={`Show ${r.field} on the model`}
              onClick={() => set({ reading: freshReading(r.field, "value") })}
            >
              {r.field}
            </button>
            <b className="fig">{figure(r.worst, 4)}</b>
          </div>
          <div className="quiet small-line ruled">
            {r.element === null ? "no value" : `element ${r.element}`}
            {r.layer !== null && `, layer ${r.layer}`}
            {r.here !== null && `; here ${figure(r.here, 4)}`}
            {r.deviation !== null && `, apart by ${figure(r.deviation, 3)} at most`}
          </div>
        </div>
      ))}
      <AnswerLeaves
        what="What the file says of failure"
        kind="solver-failure"
        words={{ result, step, criterion }}
        name="failure in the file"
      />
    </section>
  );
}
