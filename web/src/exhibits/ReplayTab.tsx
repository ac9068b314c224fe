import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { useQuestion } from "../api/asking";
import { api, ask, type Schemas } from "../api/client";
import { useChange, useReview } from "../api/queries";
import { say } from "../bench/notices";
import { useBench } from "../bench/store";
import { Refused } from "../controls/Refused";
import { figure, percent } from "../reading/format";

type Became = Schemas["Became"];

/** What is kept of the result in view asked of another one: what is the same, what changed, what is gone. */
export function ReplayTab() {
  const result = useBench((s) => s.result);
  const review = useReview();
  const [revised, setRevised] = useState("");
  const [share, setShare] = useState("1");
  const [words, setWords] = useState<Schemas["Replay"] | null>(null);
  const others = review.data?.results.filter((r) => r.id !== result) ?? [];
  const tolerance = Number(share.replace(",", "."));
  const asked = useQuestion("replay", words && words.result === result ? words : null);
  const keep = useChange((body: Schemas["ExhibitIn"]) => ask(api.POST("/api/exhibits", { body })));
  if (result === null) return <p className="quiet">A replay needs a result.</p>;
  if (!others.length)
    return (
      <p className="quiet">
        A replay asks what is kept of this result of a revised one. There is no other result in this review: take the
        revised one in (Intake).
      </p>
    );
  return (
    <>
      <form
        className="stack-form"
        onSubmit={(e) => {
          e.preventDefault();
          setWords({ result, revised, tolerance: tolerance / 100 });
        }}
      >
        <Form.Group className="mb-2">
          <Form.Label htmlFor="revised">The revised result</Form.Label>
          <Form.Select id="revised" size="sm" value={revised} onChange={(e) => setRevised(e.target.value)}>
            <option value="">choose …</option>
            {others.map((r) => (
              <option key={r.id} value={r.name}>
                {r.name}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <Form.Group className="mb-2">
          <Form.Label htmlFor="within">The same within, %</Form.Label>
          <Form.Control
            id="within"
            size="sm"
            inputMode="decimal"
            value={share}
            onChange={(e) => setShare(e.target.value)}
          />
        </Form.Group>
        <button type="submit" className="btn btn-primary" disabled={!revised || !(tolerance >= 0) || asked.isFetching}>
          {asked.isFetching ? "Asking …" : "Replay"}
        </button>
      </form>
      {asked.error && <Refused error={asked.error} />}
      {words && asked.data && !asked.isFetching && (
        <div data-testid="replayed">
          <div className={`verdict ${asked.data.state && `verdict-${asked.data.state}`}`} role="status">
            {asked.data.verdict || "Nothing is kept of this result that could be asked again."}
          </div>
          {asked.data.more.notes.map((n) => (
            <p className="quiet small-line" key={n}>
              {n}
            </p>
          ))}
          {asked.data.more.items.map((i, k) => (
            <Item key={`${i.title} ${k}`} item={i} revised={words.revised} />
          ))}
          <div className="row-line actions">
            <button
              type="button"
              className="ghost"
              disabled={keep.isPending || !asked.data.more.items.length}
              onClick={() =>
                keep.mutate(
                  {
                    of: "table",
                    title: `Replay on ${words.revised}`,
                    questions: [{ kind: "replay", words: { ...words } }],
                    address: "",
                    note: "",
                    notes: [],
                  },
                  { onSuccess: () => say("Kept.") },
                )
              }
            >
              Keep as exhibit
            </button>
          </div>
        </div>
      )}
    </>
  );
}

const marks: Record<string, string> = { same: "same", changed: "changed", gone: "gone" };

function Item({ item: i, revised }: { item: Became; revised: string }) {
  const seen = useMutation({
    mutationFn: () =>
      ask(api.GET("/api/exhibits/{exhibit}/beside", { params: { path: { exhibit: i.exhibit! }, query: { revised } } })),
  });
  const number = (v: number | null | undefined) => (v === null || v === undefined ? "no value" : figure(v));
  return (
    <article className={`became became-${i.status}`} data-testid="became">
      <b>{i.title}</b> <span className={`became-mark became-${i.status}`}>{marks[i.status]}</span>
      <div className="small-line">{i.said}</div>
      {(i.then !== null || i.now !== null) && (
        <div className="fig small-line">
          {number(i.then)} → {number(i.now)} {i.unit}
        </div>
      )}
      {i.verdict_then !== i.verdict_now && (
        <div className="small-line">
          Verdict then: {i.verdict_then || "none"}; now: {i.verdict_now || "none"}
        </div>
      )}
      {i.pictured && !seen.data && (
        <button type="button" className="link" disabled={seen.isPending} onClick={() => seen.mutate()}>
          {seen.isPending ? "Drawing both …" : "See both"}
        </button>
      )}
      {seen.error && <Refused error={seen.error} />}
      {seen.data && (
        <figure className="both">
          <img src={seen.data.then} alt={`${i.title}, then`} />
          <img src={seen.data.now} alt={`${i.title}, now`} />
          <figcaption className="small-line">
            Then above, now below, one key for both: {percent(seen.data.differs)} of the model differ.
          </figcaption>
        </figure>
      )}
    </article>
  );
}
