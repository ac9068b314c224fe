import { useContents, useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { FiguresTable } from "../controls/AnswerTable";
import { Choices } from "../controls/Choices";
import { Refused } from "../controls/Refused";
import { useStudy, useStudyWords } from "../lines/compare";

/** The highest or lowest of the reading in view over several meshes of one body: what it comes to as the mesh is refined. */
export function MeshesTab() {
  const { result, study, set } = useBench("result", "study", "set");
  const review = useReview();
  const contents = useContents(result);
  const words = useStudyWords();
  const asked = useStudy();
  const results = review.data?.results ?? [];
  const taken = asked.data?.more.results ?? [];
  const chosen = study.results ?? results.filter((r) => taken.includes(r.name)).map((r) => r.id);
  const toggle = (id: number) => {
    const next = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
    set({ study: { ...study, results: next.length ? next : null } });
  };
  return (
    <>
      <h3>What it comes to on finer meshes</h3>
      <div className="small-line quiet">One result a mesh; what holds the same body is proposed.</div>
      <fieldset className="tick-list" aria-label="Meshes">
        {results.map((r) => (
          <label key={r.id}>
            <input type="checkbox" checked={chosen.includes(r.id)} onChange={() => toggle(r.id)} />
            <span>{r.name}</span>
          </label>
        ))}
      </fieldset>
      <Choices
        className="mt-2"
        name="Value"
        options={[
          { value: "highest" as const, label: "highest" },
          { value: "lowest" as const, label: "lowest" },
        ]}
        value={study.take}
        onChoose={(take) => set({ study: { ...study, take } })}
      />
      <Choices
        className="mt-2 mb-2"
        name="Size"
        options={[
          { value: "length" as const, label: "by size of elements" },
          { value: "unknowns" as const, label: "by number of nodes" },
        ]}
        value={study.size}
        onChoose={(size) => set({ study: { ...study, size } })}
      />
      {asked.error && <Refused error={asked.error} />}
      {!asked.error && !asked.data && <div className="quiet">Each mesh is asked …</div>}
      {!asked.error && asked.data && (
        <div className={asked.isPlaceholderData ? "former" : ""}>
          <div className={`verdict ${asked.data.state && `verdict-${asked.data.state}`}`} data-testid="study-verdict">
            {asked.data.verdict}
          </div>
          <FiguresTable figures={asked.data.figures} testid="study-figures" />
          <div className="small-line quiet">{asked.data.sentence}</div>
          <div className="row-line actions">
            <button type="button" className="ghost" onClick={() => set({ strata: true, tab: "study", beside: "" })}>
              Plot
            </button>
            {words && (
              <AnswerLeaves what="Meshes" kind="converge" words={words} name={`${contents.data?.name} meshes`} />
            )}
          </div>
        </div>
      )}
    </>
  );
}
