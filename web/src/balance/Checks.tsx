import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useChecks, useDoubts } from "../api/balance";
import { api, ask, type Schemas } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useContents, useReview } from "../api/queries";
import { readingQuery } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { NumberField } from "../controls/NumberField";
import { PlaceField } from "../controls/PlaceField";
import { RemoveButton } from "../controls/RemoveButton";
import { Section } from "../controls/Section";
import { useTyped } from "../controls/typed";
import { figure, parse, percent } from "../reading/format";
import { useView } from "../view/handle";
import { verdictClass } from "./tables";

export function Checks() {
  const { result, reading, step } = useBench("result", "reading", "step");
  const view = useView();
  const contents = useContents(result);
  const doubts = useDoubts();
  const checks = useChecks();
  const client = useQueryClient();
  const [draft, setDraft] = useTyped("hand check", { name: "", at: "max", expected: "", tolerance: 5, source: "" });
  const keep = useChange(async (body: Schemas["CheckIn"]) => {
    await ask(api.POST("/api/checks", { body }));
    await client.invalidateQueries({ queryKey: ["checks"] });
  });
  const remove = useChange(async (check: number) => {
    await removeKept("check", check);
    await client.invalidateQueries({ queryKey: ["checks"] });
  });
  const review = useReview();
  const elsewhere = useQuery({
    queryKey: ["checks", "elsewhere", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/checks/elsewhere", { params: { query: { result: result! } }, signal })),
  });
  const take = useChange(async (body: Schemas["ChecksTaken"]) => {
    await ask(api.POST("/api/checks/taken", { body }));
    await client.invalidateQueries({ queryKey: ["checks"] });
  });
  const expected = parse(draft.expected);
  return (
    <>
      <h3>Does it make sense?</h3>
      {(doubts.data?.doubts ?? []).map((d) => (
        <div className="sense" key={d.name} data-testid={`doubt-${d.name}`} data-verdict={d.verdict}>
          <span className={`held held-${verdictClass[d.verdict] ?? "unknown"}`}>{d.verdict}</span> <b>{d.name}</b>
          <div>
            {d.said} {d.verdict !== "agrees" && d.do}{" "}
            {d.xyz && (
              <button type="button" className="link" onClick={() => view.goTo?.(d.xyz as [number, number, number])}>
                node {d.node}
              </button>
            )}
          </div>
        </div>
      ))}
      <h3 className="sub">Hand checks</h3>
      {Object.entries(elsewhere.data ?? {}).map(([of, count]) => (
        <button type="button" className="link" key={of} onClick={() => take.mutate({ of: Number(of), to: result! })}>
          Take over {count} of {review.data?.results.find((r) => r.id === Number(of))?.name}
        </button>
      ))}
      {(checks.data ?? []).map((c) => (
        <div className="sense" key={c.id} data-testid="hand-check" data-verdict={c.verdict}>
          <span className={`held held-${verdictClass[c.verdict] ?? "unknown"}`}>{c.verdict}</span> <b>{c.name}</b>
          <RemoveButton what={`check ${c.name}`} onRemove={() => remove.mutate(c.id)} />
          <div title={c.sentence}>
            <span className="fig">
              {figure(c.value)} {c.unit}
            </span>{" "}
            for {figure(c.expected)} ± {percent(c.tolerance, 2)}
            {c.off !== null && c.off !== undefined && <>, off by {percent(c.off, 2)}</>}
            {c.source && <span className="quiet"> · {c.source}</span>}
          </div>
        </div>
      ))}
      <Section name="hand check" summary="Keep a hand check of the reading in view">
        <input
          className="form-control form-control-sm"
          placeholder="name"
          aria-label="Name of the check"
          value={draft.name}
          onChange={(e) => setDraft({ ...draft, name: e.target.value })}
        />
        {contents.data && (
          <PlaceField
            label="At"
            name="At"
            contents={contents.data}
            value={draft.at}
            onSet={(at) => setDraft({ ...draft, at })}
          />
        )}
        <div className="quiet small-line">max and min are places too: where the reading is highest and lowest.</div>
        <label className="row-line">
          Expected
          <input
            className="form-control form-control-sm fig"
            aria-label="Expected"
            value={draft.expected}
            onChange={(e) => setDraft({ ...draft, expected: e.target.value })}
          />
        </label>
        <NumberField
          label="Within"
          unit="%"
          value={draft.tolerance}
          min={0}
          onSet={(tolerance) => setDraft({ ...draft, tolerance })}
        />
        <input
          className="form-control form-control-sm"
          placeholder="source or formula"
          aria-label="Source or formula"
          value={draft.source}
          onChange={(e) => setDraft({ ...draft, source: e.target.value })}
        />
        <button
          type="button"
          className="ghost"
          disabled={!draft.name.trim() || expected === null || !reading}
          onClick={() =>
            keep.mutate(
              {
                result: result!,
                name: draft.name.trim(),
                reading: readingQuery(reading!, step) as Schemas["CheckIn"]["reading"],
                at: draft.at.trim(),
                expected: expected!,
                tolerance: draft.tolerance / 100,
                source: draft.source.trim(),
              },
              { onSuccess: () => setDraft({ ...draft, name: "", expected: "" }) },
            )
          }
        >
          Keep check
        </button>
      </Section>
    </>
  );
}
