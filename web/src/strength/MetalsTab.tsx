import { useQuestion } from "../api/asking";
import { useContents } from "../api/queries";
import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { figure, percent } from "../reading/format";

/** Metals against yield, ultimate strength and plastic strain limit, part by part. */
export function MetalsTab() {
  const { result, step, set } = useBench("result", "step", "set");
  const contents = useContents(result);
  const stated = contents.data?.materials.some((m) =>
    ["yield", "ultimate", "plastic_limit"].some((n) => n in m.constants),
  );
  const words = stated ? { result, step } : null;
  const asked = useQuestion("utilisation", words);
  if (!contents.data) return <div className="quiet">Reading the materials …</div>;
  if (!stated)
    return (
      <>
        <div className="quiet small-line">
          No limit is stated of a material of this result. Yield strength, ultimate strength and plastic strain limit
          are stated beside its other constants.
        </div>
        <button type="button" className="ghost" onClick={() => set({ bay: "intake" })}>
          State them in Intake
        </button>
      </>
    );
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return <div className="quiet">Stress is held against its limits …</div>;
  const { rows, yielded, first_failure: first } = asked.data.more;
  const stress = contents.data.fields.find((f) => f.kind === "stress" && f.rank === "tensor" && !f.layers);
  const share = yielded[step];
  return (
    <div data-testid="metals">
      <div className={`verdict verdict-${asked.data.state}`} data-testid="metals-verdict">
        {asked.data.verdict}
      </div>
      <table className="figures" data-testid="utilisation">
        <thead>
          <tr>
            <th>part</th>
            <th>against</th>
            <th>limit</th>
            <th>reached</th>
            <th title="Share of the part's volume at the limit or above">share</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={`${r.part} ${r.against}`} className={r.utilisation >= 1 ? "row-fails" : ""}>
              <td className="word">{r.part}</td>
              <td className="word">{r.against}</td>
              <td>{figure(r.limit, 4)}</td>
              <td>{figure(r.utilisation, 3)}</td>
              <td>{r.over_share === null ? "not known" : percent(r.over_share, 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {share != null && (
        <div className="row-line ruled">
          <span>yielded, by volume</span>
          <b className="fig">{percent(share, 3)}</b>
        </div>
      )}
      {first?.fails && (
        <div className="small-line" data-testid="first-yield">
          First at {first.mode} <b>{first.moment}</b>, in {first.zone}.{" "}
          <button type="button" className="link" onClick={() => set({ step: first.step, playing: false })}>
            Go there
          </button>
        </div>
      )}
      {asked.data.caveats!.map((c) => (
        <div className="quiet small-line" key={c}>
          {c}
        </div>
      ))}
      <div className="row-line actions">
        {stress && rows.some((r) => r.against === "yield") && (
          <button
            type="button"
            className="btn btn-primary btn-sm"
            onClick={() => set({ reading: freshReading(stress.name, "yield-utilisation") })}
          >
            Show on the model
          </button>
        )}
        <AnswerLeaves what="Table" kind="utilisation" words={words!} name="utilisation" />
        <AnswerLeaves what="Through the steps" kind="yielded" words={{ result }} name="yielded" />
      </div>
    </div>
  );
}
