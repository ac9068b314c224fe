import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Form } from "react-bootstrap";
import { useBalance, useChecks, useDoubts } from "../api/balance";
import { api, ask, type Schemas } from "../api/client";
import { lookQuery, readingQuery, useChange, useContents, useReview } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { freshArrows, nothingPicked, useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { FoldField } from "../controls/FoldField";
import { NumberField } from "../controls/NumberField";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { figure, parse, percent } from "../reading/format";
import { Inside } from "./Inside";
import { Heads, scaleOf, small, Vector, Verdict, verdictClass } from "./tables";

const tabs: { tab: string; label: string; drawn: () => ReactNode }[] = [
  { tab: "balance", label: "Balance", drawn: () => <LoadBalance /> },
  { tab: "inside", label: "Inside", drawn: () => <Inside /> },
  { tab: "checks", label: "Checks", drawn: () => <Checks /> },
  { tab: "sets", label: "Sets", drawn: () => <Sets /> },
];

/** Whether forces add up: over the model, set by set, through a cut, at a joint; checks by hand and of sense. */
export function BalanceDrawer() {
  const { result, balanceTab, set } = useBench();
  if (result === null) return <h5>Balance</h5>;
  return (
    <div data-testid="balance">
      <div className="drawer-tabs" role="tablist" aria-label="Balance">
        {tabs.map(({ tab, label }) => (
          <button
            type="button"
            role="tab"
            key={tab}
            aria-selected={balanceTab === tab}
            className={balanceTab === tab ? "on" : ""}
            onClick={() => set({ balanceTab: tab })}
          >
            {label}
          </button>
        ))}
      </div>
      {tabs.find((t) => t.tab === balanceTab)?.drawn()}
    </div>
  );
}

function LoadBalance() {
  const { result, set, arrows } = useBench();
  const contents = useContents(result);
  const [about, setAbout] = useState<string | null>(null);
  const [deformed, setDeformed] = useState(false);
  const told = useBalance(about, deformed);
  const b = told.data;
  const fields = contents.data?.fields ?? [];
  const arrowsOf = (kind: string) => fields.find((f) => f.kind === kind && f.rank === "vector");
  const toggle = (name: string, split: boolean) =>
    set({
      arrows:
        arrows?.field === name ? null : { ...freshArrows(name), spacing: 0.015, full: true, at: "outside", split },
    });
  if (told.error) return <Refused error={told.error} />;
  if (!b) return <div className="quiet">Adding up …</div>;
  const rows = [b.applied, b.reaction, b.residual];
  const forces = scaleOf(
    b.force_unit,
    rows.map((r) => r.force),
  );
  const moments = scaleOf(
    b.moment_unit,
    rows.map((r) => r.moment),
  );
  // Moments that are rounding beside the forces times the model's size are nothing too.
  moments.nothing = Math.max(
    moments.nothing,
    1e-9 * (contents.data?.size ?? 1) * Math.max(...rows.flatMap((r) => r.force.map(Math.abs))),
  );
  const held = scaleOf(
    b.force_unit,
    b.sets.map((s) => s.reaction.force),
  );
  const copy = () =>
    void copyTable(
      ["", "Fx", "Fy", "Fz", "Mx", "My", "Mz"],
      ["", b.force_unit, b.force_unit, b.force_unit, b.moment_unit, b.moment_unit, b.moment_unit],
      [
        ...(["applied", "reaction", "residual"] as const).map((k) => [k, ...b[k].force, ...b[k].moment]),
        ...b.sets.map((s) => [`reaction of ${s.name} (${s.held})`, ...s.reaction.force, ...s.reaction.moment]),
      ],
    );
  return (
    <>
      <Verdict verdict={b.verdict}>
        {b.force_share !== null && (
          <>
            {small(b.force_share)} of all forces is residual, {small(b.moment_share)} of their moments.
          </>
        )}
      </Verdict>
      <table className="figures" data-testid="forces">
        <Heads what="force" scale={forces} />
        <tbody>
          <Vector word="applied" v={b.applied.force} scale={forces} />
          <Vector word="reaction" v={b.reaction.force} scale={forces} />
          <Vector word="residual" v={b.residual.force} scale={forces} />
        </tbody>
        <Heads what="moment" scale={moments} />
        <tbody>
          <Vector word="applied" v={b.applied.moment} scale={moments} />
          <Vector word="reaction" v={b.reaction.moment} scale={moments} />
          <Vector word="residual" v={b.residual.moment} scale={moments} />
        </tbody>
      </table>
      <PointField label="About" value={b.about.map((v) => Number(v.toPrecision(6))).join(",")} onSet={setAbout} />
      <Switch id="deformed-moments" label="Moments on the deformed shape" on={deformed} onSet={setDeformed} />
      {b.notes.map((n) => (
        <div className="quiet small-line" key={n}>
          {n}
        </div>
      ))}
      {b.free_residual !== null && b.free_residual !== undefined && (
        <div className="quiet small-line">
          At free nodes {percent(b.free_residual, 2)} of the largest force is left.
        </div>
      )}
      <h6>Sets</h6>
      <table className="figures" data-testid="set-forces">
        <Heads what="reaction" scale={held} />
        <tbody>
          {b.sets.map((s) => (
            <Vector
              key={s.name}
              word={
                <>
                  {s.name} <span className={`held held-${s.held}`}>{heldWord[s.held]}</span>
                </>
              }
              title={heldHint[s.held]}
              scale={held}
              v={s.reaction.force}
            />
          ))}
        </tbody>
      </table>
      {b.sets
        .filter((s) => s.held !== "held")
        .map((s) => (
          <div className="quiet small-line" key={s.name}>
            <b>{s.name}</b>: {heldHint[s.held]}
          </div>
        ))}
      <div className="row-line actions">
        {arrowsOf("reaction") && (
          <button type="button" className="ghost" onClick={() => toggle(arrowsOf("reaction")!.name, true)}>
            Arrows of supports
          </button>
        )}
        {arrowsOf("force") && (
          <button type="button" className="ghost" onClick={() => toggle(arrowsOf("force")!.name, false)}>
            Arrows of loads
          </button>
        )}
        <button type="button" className="ghost" onClick={copy}>
          Copy
        </button>
      </div>
    </>
  );
}

const heldWord: Record<string, string> = {
  held: "held",
  partly: "partly held",
  free: "not held",
  unknown: "not known",
};
const heldHint: Record<string, string> = {
  held: "Every node of it has a reaction at some step.",
  partly: "only some of its nodes are held; the reaction is that of those.",
  free: "it is not held: a reaction here means nothing.",
  unknown: "the result does not say what is held.",
};

function Checks() {
  const { result, reading, step, set } = useBench();
  const doubts = useDoubts();
  const checks = useChecks();
  const client = useQueryClient();
  const [draft, setDraft] = useState({ name: "", at: "max", expected: "", tolerance: 5, source: "" });
  const keep = useChange(async (body: Schemas["CheckIn"]) => {
    await ask(api.POST("/api/checks", { body }));
    await client.invalidateQueries({ queryKey: ["checks"] });
  });
  const remove = useChange(async (check: number) => {
    await ask(api.DELETE("/api/checks/{check}", { params: { path: { check } } }));
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
      <h5>Does it make sense?</h5>
      {(doubts.data ?? []).map((d) => (
        <div className="sense" key={d.name} data-testid={`doubt-${d.name}`} data-verdict={d.verdict}>
          <span className={`held held-${verdictClass[d.verdict] ?? "unknown"}`}>{d.verdict}</span> <b>{d.name}</b>
          <div>
            {d.said} {d.verdict !== "agrees" && d.do}{" "}
            {d.xyz && (
              <button
                type="button"
                className="link"
                onClick={() => set({ goTo: { xyz: d.xyz as [number, number, number], count: Date.now() } })}
              >
                node {d.node}
              </button>
            )}
          </div>
        </div>
      ))}
      <h6>Hand checks</h6>
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
      <details>
        <summary>Keep a hand check of the reading in view</summary>
        <input
          className="form-control form-control-sm"
          placeholder="name"
          aria-label="Name of the check"
          value={draft.name}
          onChange={(e) => setDraft({ ...draft, name: e.target.value })}
        />
        <label className="row-line">
          At
          <input
            className="form-control form-control-sm fig point-field"
            aria-label="At"
            title="max, min, node:12, element:5 or set:NAME"
            value={draft.at}
            onChange={(e) => setDraft({ ...draft, at: e.target.value })}
          />
        </label>
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
      </details>
    </>
  );
}

type How = "part" | "box" | "face" | "nodes" | "value";

function Sets() {
  const bench = useBench();
  const { result, reading, step, picking, measuring, look, set } = bench;
  const contents = useContents(result);
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [how, setHow] = useState<How>("box");
  const [part, setPart] = useState("");
  const [low, setLow] = useState("0,0,0");
  const [high, setHigh] = useState("0,0,0");
  const [least, setLeast] = useState(0);
  const make = useChange(async (body: Schemas["SetIn"]) => {
    await ask(api.POST("/api/results/{result}/sets", { params: { path: { result: result! } }, body }));
    await client.invalidateQueries();
  });
  const remove = useChange(async (which: string) => {
    await ask(api.DELETE("/api/results/{result}/sets/{name}", { params: { path: { result: result!, name: which } } }));
    await client.invalidateQueries();
  });
  if (!contents.data) return null;
  const triple = (text: string) => text.split(",").map(Number) as [number, number, number];
  const choose = (to: How) => {
    setHow(to);
    set({ picking: to === "face" ? "area" : to === "nodes" ? "length" : "flag", measuring: nothingPicked });
  };
  const done = () => {
    if (how === "face" && measuring.face === null) {
      tell(new Error("No face is picked: click one on the model."));
      return;
    }
    make.mutate(
      {
        name: name.trim(),
        how,
        part: part || contents.data!.parts[0]!.name,
        low: triple(low),
        high: triple(high),
        face: measuring.face ?? -1,
        nodes: measuring.nodes,
        fold: measuring.fold,
        look: lookQuery(look),
        reading: reading ? (readingQuery(reading, step) as Schemas["CheckIn"]["reading"]) : null,
        least,
      },
      { onSuccess: () => setName("") },
    );
  };
  return (
    <>
      <h5>Sets</h5>
      {contents.data.sets.map((s) => (
        <div className="part-row" key={s.name} data-testid="set-row">
          <span className="name" title={s.made ?? "of the file"}>
            {s.name}
          </span>
          <span className="fig quiet">
            {s.count} {s.of}
          </span>
          {s.held && <span className={`held held-${s.held}`}>{heldWord[s.held]}</span>}
          {s.made && <RemoveButton what={`set ${s.name}`} onRemove={() => remove.mutate(s.name)} />}
        </div>
      ))}
      <h6>Make one</h6>
      <Choices
        name="Made of"
        options={[
          { value: "box", label: "a box" },
          { value: "part", label: "a part" },
          { value: "face", label: "a face" },
          { value: "nodes", label: "nodes" },
          { value: "value", label: "a value" },
        ]}
        value={how}
        onChoose={choose}
      />
      {how === "part" && (
        <Form.Select size="sm" aria-label="Part" value={part} onChange={(e) => setPart(e.target.value)}>
          {contents.data.parts.map((p) => (
            <option key={p.name}>{p.name}</option>
          ))}
        </Form.Select>
      )}
      {how === "box" && (
        <>
          <PointField label="Lowest x, y, z" value={low} onSet={setLow} />
          <PointField label="Highest x, y, z" value={high} onSet={setHigh} />
          <div className="quiet small-line">A plane is a box without thickness.</div>
        </>
      )}
      {how === "face" && (
        <>
          <div className="quiet small-line">
            {picking === "area" && measuring.face !== null ? "A face is picked." : "Click a face on the model."}
          </div>
          <FoldField />
        </>
      )}
      {how === "nodes" && (
        <div className="row-line">
          <span className="quiet small-line">Click nodes, or</span>
          <TextField
            label="write them"
            name="Nodes of the set"
            value={measuring.nodes.join(", ")}
            onSet={(text) => set({ measuring: { ...measuring, nodes: (text.match(/\d+/g) ?? []).map(Number) } })}
          />
        </div>
      )}
      {how === "value" && <NumberField label="Reading in view at least" value={least} onSet={setLeast} />}
      <form
        className="row-line"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) done();
        }}
      >
        <input
          className="form-control form-control-sm name-field"
          placeholder="Name the set"
          aria-label="Name the set"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="ghost" disabled={!name.trim()}>
          Make
        </button>
      </form>
    </>
  );
}
