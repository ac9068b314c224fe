import { useState } from "react";
import type { Schemas } from "../api/client";
import { useKeeping } from "../api/kept";
import { useContents, useReview, useValues } from "../api/queries";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { RenameField } from "../controls/RenameField";
import { SelectField } from "../controls/SelectField";
import { useSideBySide, useTableInView, useTableWords } from "../lines/compare";

type Line = Schemas["TableLine"];

/** The same questions asked of several results: which results, which questions, and what stands apart. */
export function TableTab() {
  const { tables, shown, set } = useTableInView();
  const review = useReview();
  const { keep, change, remove, now } = useKeeping("table");
  const asked = useSideBySide();
  const words = useTableWords();
  const offers = useLines();
  const [renaming, setRenaming] = useState(false);
  const results = review.data?.results ?? [];
  if (results.length < 2)
    return <div className="quiet">There is one result in this review. A table holds several beside each other.</div>;
  if (tables.error) return <Refused error={tables.error} />;
  if (!tables.data) return <div className="quiet">Reading the tables …</div>;
  const begin = () => {
    let n = 1;
    while (tables.data.some((t) => t.words.name === `Table ${n}`)) n++;
    const first = offers.find((o) => o.name.startsWith("highest"));
    if (!first) return;
    keep.mutate(
      { name: `Table ${n}`, results: results.map((r) => r.id), lines: [first] },
      { onSuccess: (made) => set({ table: made.id, strata: true, tab: "side by side", beside: "" }) },
    );
  };
  const start = (
    <button
      type="button"
      className={shown ? "ghost" : "btn btn-primary btn-sm"}
      disabled={!offers.length}
      onClick={begin}
    >
      Start a table
    </button>
  );
  if (!shown)
    return (
      <>
        <h3>Several results in one table</h3>
        <div className="quiet">Readings, sums over sets and checks of all results beside each other.</div>
        <div className="row-line actions">{start}</div>
      </>
    );
  const { lines, results: held } = now(shown);
  const chosen = held ?? [];
  const changed = (to: Partial<Schemas["Table"]>) => change.mutate({ id: shown.id, words: to });
  const toggle = (id: number) => {
    const next = chosen.includes(id)
      ? chosen.filter((c) => c !== id)
      : results.map((r) => r.id).filter((r) => r === id || chosen.includes(r));
    changed({ results: next });
  };
  const fresh = offers.filter((o) => !lines.some((l) => l.name === o.name));
  return (
    <>
      {tables.data.length > 1 && (
        <SelectField
          label="Table"
          name="Table in view"
          value={String(shown.id)}
          options={tables.data.map((t) => ({ value: String(t.id), label: t.words.name }))}
          onSet={(id) => set({ table: Number(id) })}
        />
      )}
      <div className="part-row">
        {renaming ? (
          <RenameField
            what={shown.words.name}
            onDone={(name) => {
              setRenaming(false);
              if (name) changed({ name });
            }}
          />
        ) : (
          <button type="button" className="link name" title="Rename" onClick={() => setRenaming(true)}>
            {shown.words.name}
          </button>
        )}
        <RemoveButton what={`table ${shown.words.name}`} onRemove={() => remove.mutate(shown.id)} />
      </div>
      {asked.error && <Refused error={asked.error} />}
      {asked.data?.verdict && (
        <div className={`verdict ${asked.data.state && `verdict-${asked.data.state}`}`} data-testid="table-verdict">
          {asked.data.verdict}
        </div>
      )}
      <h3 className="sub">Quantities</h3>
      <div data-testid="table-lines">
        {lines.map((l) => (
          <div className="part-row" key={l.name}>
            <span className="name">{l.name}</span>
            {lines.length > 1 && (
              <RemoveButton
                what={`quantity ${l.name}`}
                onRemove={() => changed({ lines: lines.filter((o) => o.name !== l.name) })}
              />
            )}
          </div>
        ))}
      </div>
      {fresh.length > 0 && (
        <SelectField
          label="Add"
          name="Add a quantity"
          value=""
          options={[{ value: "", label: "choose a quantity" }, ...fresh.map((o) => ({ value: o.name, label: o.name }))]}
          onSet={(name) => {
            const line = fresh.find((o) => o.name === name);
            if (line) changed({ lines: [...lines, line] });
          }}
        />
      )}
      <h3 className="sub">Results</h3>
      <fieldset className="tick-list" aria-label="Results in the table">
        {results.map((r) => (
          <label key={r.id}>
            <input type="checkbox" checked={chosen.includes(r.id)} onChange={() => toggle(r.id)} />
            <span>{r.name}</span>
          </label>
        ))}
      </fieldset>
      <div className="row-line actions">
        <button type="button" className="ghost" onClick={() => set({ strata: true, tab: "side by side", beside: "" })}>
          Show the table
        </button>
        {start}
        {words && asked.data && <AnswerLeaves what="Table" kind="side-by-side" words={words} name={shown.words.name} />}
      </div>
    </>
  );
}

/** What can be a line: the reading in view, sums of forces over the sets, penetration, the load balance. */
function useLines(): Line[] {
  const { result, reading, step } = useBench("result", "reading", "step");
  const contents = useContents(result);
  const words = useValues().data?.head.words;
  const c = contents.data;
  if (!c || !reading || !words) return [];
  const own = c.steps.filter((s) => !s.made_of);
  const here = c.steps[step];
  // The last of one result is held against the last of another, any other against the same moment.
  const at =
    step === own.length - 1 ? "last" : here?.name || (here && here.kind !== "number" ? `t=${here.value}` : step);
  const name = `${words.measure === words.field ? "" : `${words.measure} of `}${words.field}`;
  const asked = { ...told({ ...reading, against: null }), step: at };
  const lines: Line[] = [
    { name: `highest ${name}`, kind: "read", words: { ...asked, extremes: true }, take: "highest" },
    { name: `lowest ${name}`, kind: "read", words: { ...asked, extremes: true }, take: "lowest" },
  ];
  for (const f of c.fields.filter((f) => f.kind === "reaction" && !f.recovered))
    for (const s of c.sets.filter((s) => s.of === "nodes"))
      for (const axis of c.planar ? ["x", "y"] : ["x", "y", "z"])
        lines.push({
          name: `${f.title} ${axis}, sum over ${s.name}`,
          kind: "trace",
          words: { field: f.name, measure: axis, at: `set:${s.name}`, reduce: "sum" },
          take: "last",
        });
  if (c.parts.length > 1)
    lines.push({ name: "deepest penetration", kind: "penetration", words: { step: at }, take: "figure:deepest" });
  return lines;
}
