import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { moreOf, type SaidOfFailure, useSolverFailure } from "../lines/strength";
import { figure } from "../reading/format";

/** What the file itself says of failure, beside what is worked out here; nothing where it says nothing. */
export function FromFile() {
  const { result, step, criterion, reading, set } = useBench();
  const asked = useSolverFailure();
  if (asked.error) return <Refused error={asked.error} />;
  const rows = asked.data ? moreOf<{ rows: SaidOfFailure[] }>(asked.data).rows : [];
  if (!asked.data || rows.length === 0) return null;
  const compared = rows.some((r) => r.here !== null);
  return (
    <section className={asked.isPlaceholderData ? "former" : ""} data-testid="from-file">
      <h3 className="sub">In the file</h3>
      <div className={`verdict verdict-${rows.some((r) => r.fail) ? "bad" : "good"}`}>{asked.data.verdict}</div>
      <table className="figures">
        <thead>
          <tr>
            <th>worst at this step</th>
            <th />
            <th>element</th>
            <th>layer</th>
            {compared && <th title="The same element, worked out of the stated laminates">here</th>}
            {compared && <th title="The largest difference over all elements">off by</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.field} className={reading?.field === r.field ? "chosen-row" : ""}>
              <td className="word">
                <button
                  type="button"
                  className="link"
                  title={`Show ${r.field} on the model`}
                  onClick={() => set({ reading: freshReading(r.field, "value") })}
                >
                  {r.field}
                </button>
              </td>
              <td>{figure(r.worst, 4)}</td>
              <td>{r.element ?? ""}</td>
              <td>{r.layer ?? ""}</td>
              {compared && <td>{r.here === null ? "" : figure(r.here, 4)}</td>}
              {compared && <td>{r.deviation === null ? "" : figure(r.deviation, 3)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
      <AnswerLeaves
        what="What the file says of failure"
        kind="solver-failure"
        words={{ result, step, criterion }}
        name="failure in the file"
      />
    </section>
  );
}
