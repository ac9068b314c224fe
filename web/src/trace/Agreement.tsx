import type { Match, TestRecord } from "../api/client";
import { useCycles } from "../api/queries";
import { useTestUse } from "../api/records";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { NumberField } from "../controls/NumberField";
import { figure, percent } from "../reading/format";

/** The corrections one makes most, beside the question whether they are needed; each takes itself back. */
function QuickCorrections({ record, asked }: { record: TestRecord; asked: boolean }) {
  const change = useTestUse(record.id);
  const { use } = record;
  if (record.of.length) return null;
  const zeros = record.zero_first ?? null;
  const zeroed = zeros !== null && use.x.zero === zeros.x && use.y.zero === zeros.y;
  const turned = use.y.sign === -1;
  return (
    <div className="row-line actions" data-testid="quick-corrections">
      <button
        type="button"
        className={`ghost ${turned ? "on" : ""} ${asked ? "asked" : ""}`}
        aria-pressed={turned}
        title="The record's force with its sign reversed"
        onClick={() => change.mutate((u) => ({ ...u, y: { ...u.y, sign: turned ? 1 : -1 } }))}
      >
        Turn the sign of the force
      </button>
      {zeros && (
        <button
          type="button"
          className={`ghost ${zeroed ? "on" : ""}`}
          aria-pressed={zeroed}
          title={
            zeros.samples > 1
              ? `The mean of the ${zeros.samples} samples before the driver moves is taken off driver and force`
              : "The driver moves from the first sample on: that sample is taken off driver and force"
          }
          onClick={() =>
            change.mutate((u) => ({
              ...u,
              x: { ...u.x, zero: zeroed ? 0 : zeros.x },
              y: { ...u.y, zero: zeroed ? 0 : zeros.y },
            }))
          }
        >
          {zeros.samples > 1 ? `First ${zeros.samples} samples are zero` : "First sample is zero"}
        </button>
      )}
    </div>
  );
}

/** How a curve and a record agree, in numbers, and what was done to the record first. */
export function Agreement({ match, record }: { match: Match; record: TestRecord }) {
  const cycles = useCycles();
  const change = useTestUse(record.id);
  const limits = record.use.limits!;
  const setLimit = (name: keyof typeof limits) => (share: number) =>
    change.mutate((use) => ({ ...use, limits: { ...limits, ...use.limits, [name]: share / 100 } }));
  const colon = match.verdict.indexOf(":");
  const one = (unit: string | null) => (unit ? ` ${unit}` : "");
  return (
    <>
      <div className={`verdict verdict-${match.state}`} data-testid="verdict">
        <b>{match.verdict.slice(0, colon + 1)}</b>
        {match.verdict.slice(colon + 1)}
      </div>
      <QuickCorrections record={record} asked={match.verdict.includes("sign still to be reversed")} />
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
        <AnswerLeaves
          what="Agreement"
          kind="agreement"
          words={{ pairing: match.pairing, test: match.test, ...(cycles && { cycles }) }}
          name={`model against test${cycles && ` cycle ${cycles}`}`}
        />
        <span className="quiet small-line">
          R² <span className="fig">{figure(match.deviation.determination, 3)}</span>
        </span>
      </div>
      {match.notes.map((n) => (
        <div className="caveat caveat-in" key={n}>
          {n}
        </div>
      ))}
      <h3 className="sub">What was done to the record</h3>
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
      <h3 className="sub">Accept within</h3>
      <div className="limits">
        <NumberField label="Forces" unit="%" value={100 * limits.force!} onSet={setLimit("force")} min={0} />
        <NumberField label="Stiffness" unit="%" value={100 * limits.stiffness!} onSet={setLimit("stiffness")} min={0} />
        <NumberField label="Energy" unit="%" value={100 * limits.energy!} onSet={setLimit("energy")} min={0} />
        <NumberField label="RMS" unit="%" value={100 * limits.deviation!} onSet={setLimit("deviation")} min={0} />
      </div>
    </>
  );
}
