import type { Match, TestRecord } from "../api/client";
import { useTestUse } from "../api/queries";
import { Leaves } from "../controls/Leaves";
import { NumberField } from "../controls/NumberField";
import { figure, percent } from "../reading/format";

/** How a curve and a record agree, in numbers, and what was done to the record first. */
export function Agreement({ match, record }: { match: Match; record: TestRecord }) {
  const change = useTestUse(record.id);
  const limits = record.use.limits!;
  const setLimit = (name: keyof typeof limits) => (share: number) =>
    change.mutate((use) => ({ ...use, limits: { ...limits, ...use.limits, [name]: share / 100 } }));
  const state = match.agrees ? "good" : match.verdict.startsWith("Agrees but") ? "doubt" : "bad";
  const colon = match.verdict.indexOf(":");
  const one = (unit: string | null) => (unit ? ` ${unit}` : "");
  return (
    <>
      <div className={`verdict verdict-${state}`} data-testid="verdict" role="status">
        <b>{match.verdict.slice(0, colon + 1)}</b>
        {match.verdict.slice(colon + 1)}
      </div>
      <table className="figures agreement" data-testid="agreement">
        <thead>
          <tr>
            <th>agreement</th>
            <th>model</th>
            <th>test</th>
            <th>ratio</th>
          </tr>
        </thead>
        <tbody>
          {match.metrics.map((m) => (
            <tr
              key={m.name}
              title={`${m.label}${one(m.unit)}${m.limit === null ? ", for information" : `, accepted within ${percent(m.limit)}`}`}
            >
              <td>
                {m.name.startsWith("energy_cycle_") ? (
                  <span className="under">{m.label.replace("Energy, ", "")}</span>
                ) : (
                  <>
                    {m.label.replace(", widest cycle", "")} <span className="quiet fig">{m.unit}</span>
                  </>
                )}
              </td>
              <td>{figure(m.model, 3)}</td>
              <td>{figure(m.test, 3)}</td>
              <td className={m.accepted === false ? "no" : ""}>
                {figure(m.ratio, 3)}
                {m.accepted === false && <span title="outside the limit">✕</span>}
              </td>
            </tr>
          ))}
          <tr
            title={`Root mean square of model minus test at the test's points, by branch; largest ${figure(match.deviation.largest, 3)} at ${figure(match.deviation.largest_at_x, 3)}`}
          >
            <td>
              RMS deviation <span className="quiet fig">{match.deviation.unit}</span>
            </td>
            <td />
            <td>{figure(match.deviation.rms, 3)}</td>
            <td className={match.deviation.accepted ? "" : "no"}>
              {match.deviation.percent}
              {!match.deviation.accepted && <span> ✕</span>}
            </td>
          </tr>
        </tbody>
      </table>
      <div className="row-line actions">
        <Leaves what="Agreement" address="/api/matches" query={`?pairing=${match.pairing}&test=${match.test}`} />
        <span className="quiet small-line">
          R² <span className="fig">{figure(match.deviation.determination, 3)}</span>
        </span>
      </div>
      {match.notes.map((n) => (
        <div className="caveat caveat-in" key={n}>
          {n}
        </div>
      ))}
      <h6>What was done to the record</h6>
      {match.corrections.length ? (
        <ul className="done" data-testid="corrections">
          {match.corrections.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      ) : (
        <div className="quiet small-line" data-testid="corrections">
          Nothing: as recorded.
        </div>
      )}
      <h6>Accept within</h6>
      <div className="limits">
        <NumberField label="Forces" unit="%" value={100 * limits.force!} onSet={setLimit("force")} min={0} />
        <NumberField label="Stiffness" unit="%" value={100 * limits.stiffness!} onSet={setLimit("stiffness")} min={0} />
        <NumberField label="Energy" unit="%" value={100 * limits.energy!} onSet={setLimit("energy")} min={0} />
        <NumberField label="RMS" unit="%" value={100 * limits.deviation!} onSet={setLimit("deviation")} min={0} />
      </div>
    </>
  );
}
