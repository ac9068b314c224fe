import { useContents, useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { useKindOfSteps, useMac, useMacWords } from "../lines/motion";
import { figure, percent } from "../reading/format";
import { OtherField, OtherKind, Told } from "./parts";

/** The modes in view against those of another result or of a test, by shape: pairs with their deviation. */
export function ShapesTab() {
  const { result, set } = useBench("result", "set");
  const contents = useContents(result);
  const review = useReview();
  const kind = useKindOfSteps();
  const words = useMacWords();
  const asked = useMac();
  if (kind === undefined) return null;
  if (kind !== "mode") return <OtherKind wanted="mode" does="to hold shapes against each other" />;
  if ((review.data?.results.length ?? 0) < 2)
    return (
      <div className="quiet">
        There is one result in this review. Take in the modes of another, or of a test (a universal file), in Intake
        (key 1).
      </div>
    );
  return (
    <>
      <h3>{contents.data?.name} against</h3>
      <OtherField label="The modes of" />
      {words && asked.data && !asked.error && (
        <table className="figures" data-testid="pairs">
          <thead>
            <tr>
              <th>mode</th>
              <th>with</th>
              <th>MAC</th>
              <th>frequency</th>
              <th>verdict</th>
            </tr>
          </thead>
          <tbody>
            {asked.data.more.pairs.map((p, i) => (
              <tr key={p.of} title={String(asked.data.columns[6]?.values[i] ?? "")}>
                <td>
                  <button
                    type="button"
                    className="link"
                    onClick={() =>
                      set({ step: contents.data!.steps.filter((s) => s.kind === "mode")[p.of - 1]!.index })
                    }
                  >
                    {p.of}
                  </button>
                </td>
                <td>{p.with}</td>
                <td>{figure(p.mac, 3)}</td>
                <td>{p.deviation === null ? "no value" : `${p.deviation > 0 ? "+" : ""}${percent(p.deviation, 2)}`}</td>
                <td className="word">{p.verdict}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {words && <Told asked={asked} what="Pairs" kind="mac" words={words} waiting="Shape is held against shape …" />}
    </>
  );
}
