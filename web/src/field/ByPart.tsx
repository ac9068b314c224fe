import { useState } from "react";
import { useQuestion } from "../api/asking";
import { useContents } from "../api/queries";
import { readingQuery } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { figure } from "../reading/format";
import { useView } from "../view/handle";

/** Lowest and highest of the reading in each part, in one table; a click on a value goes to where it is. Asked when it is opened. */
export function ByPart() {
  const { result, reading, step } = useBench("result", "reading", "step");
  const contents = useContents(result);
  const view = useView();
  const [open, setOpen] = useState(false);
  const words = reading && result !== null ? { result, ...readingQuery(reading, step) } : null;
  const asked = useQuestion("by-part", open ? words : null);
  if ((contents.data?.parts.length ?? 0) < 2) return null;
  const answer = asked.error ? undefined : asked.data;
  return (
    <details className="section" open={open} data-testid="by-part">
      <summary
        onClick={(e) => {
          e.preventDefault();
          setOpen(!open);
        }}
      >
        Highest and lowest by part
      </summary>
      {open && asked.isFetching && !answer && <div className="quiet">Each part is read …</div>}
      {open && <Refused error={asked.error} />}
      {open && answer && (
        <>
          <table className="figures">
            <thead>
              <tr>
                <th className="word">part</th>
                <th>lowest {answer.unit}</th>
                <th>highest</th>
              </tr>
            </thead>
            <tbody>
              {answer.more.parts.map((p) => (
                <tr key={p.part}>
                  <td className="word">{p.part}</td>
                  {[p.low, p.high].map((end, i) => (
                    <td key={i ? "high" : "low"}>
                      {end ? (
                        <button
                          type="button"
                          className="link fig"
                          title={`${end.node !== null ? `node ${end.node}, ` : ""}element ${end.element ?? "none"}: go there`}
                          onClick={() => view.goTo?.(end.xyz as [number, number, number])}
                        >
                          {figure(end.value)}
                        </button>
                      ) : (
                        <span className="quiet">no value</span>
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <AnswerLeaves what="By part" kind="by-part" words={words!} name="highest and lowest by part" />
        </>
      )}
    </details>
  );
}
