import { FileUp, Plus, Trash2 } from "lucide-react";
import { type DragEvent, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import {
  api,
  ask,
  type Match,
  type Pairing,
  type PairingSpec,
  Problem,
  type TestRecord,
  type TestUse,
  toProblem,
} from "../api/client";
import { saveTest, useChange, useContents, useMatch, usePairings, useTests } from "../api/queries";
import { useBench } from "../bench/store";
import { figure, percent } from "../reading/format";
import { NumberField } from "./NumberField";
import { freshPairing, PairingForm } from "./PairingForm";

/** Curves out of the model, and a test record held against them. */
export function TraceDrawer() {
  const { result, pairing, test, set } = useBench();
  const contents = useContents(result);
  const pairings = usePairings(result);
  const tests = useTests();
  const curve = pairings.data?.find((p) => p.id === pairing);
  const record = tests.data?.find((t) => t.id === test);
  const match = useMatch(curve?.id ?? null, record?.id ?? null);
  const make = useChange(post);
  if (!contents.data) return <h5>Trace</h5>;
  const fresh = freshPairing(contents.data);
  return (
    <div data-testid="trace">
      <h5>{record ? "Against the test" : "Load and displacement"}</h5>
      {(pairings.data?.length ?? 0) > 1 && (
        <Form.Select
          size="sm"
          aria-label="Curve"
          value={pairing ?? ""}
          onChange={(e) => set({ pairing: Number(e.target.value) })}
        >
          {pairings.data!.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Form.Select>
      )}
      {curve && (
        <>
          <div className="row-line legend" title={curve.y.sentence}>
            <span>
              <i className="stroke" style={{ background: "#23282D" }} />
              {curve.y.label}
            </span>
            <span className="fig">{curve.y.unit}</span>
          </div>
          {record && (
            <div className="row-line legend">
              <span>
                <i className="stroke" style={{ background: "#2F7486" }} />
                {record.name}, {record.use.y.column}
              </span>
              <span className="fig">{record.y_unit ?? "unit not stated"}</span>
            </div>
          )}
          {curve.caveats.map((c) => (
            <div className="caveat caveat-in" key={c}>
              {c}
            </div>
          ))}
        </>
      )}
      {match.error && (
        <div className="verdict verdict-bad" role="alert">
          {match.error.message}
        </div>
      )}
      {match.data && curve && record && <Agreement match={match.data} record={record} />}
      {!curve && (
        <button
          type="button"
          className="btn btn-primary"
          disabled={!fresh || make.isPending}
          onClick={() =>
            fresh && make.mutate(fresh, { onSuccess: (made) => set({ pairing: made.id, strata: true, tab: "loop" }) })
          }
        >
          <Plus size={14} /> Make load–displacement curve
        </button>
      )}
      {curve && (
        <details className="section" key={`curve-${curve.id}`}>
          <summary>Curve: what against what</summary>
          <PairingForm key={curve.id} pairing={curve} contents={contents.data} />
          <NewCurve
            curve={curve}
            onMake={(spec) => make.mutate(spec, { onSuccess: (made) => set({ pairing: made.id }) })}
          />
        </details>
      )}
      <Record record={record} open={!record} />
    </div>
  );
}

const post = (spec: PairingSpec) => ask(api.POST("/api/pairings", { body: spec }));

function NewCurve({ curve, onMake }: { curve: Pairing; onMake: (spec: PairingSpec) => void }) {
  const { set } = useBench();
  const remove = useChange(() =>
    ask(api.DELETE("/api/pairings/{pairing}", { params: { path: { pairing: curve.id } } })),
  );
  return (
    <div className="row-line actions">
      <button
        type="button"
        className="link"
        onClick={() => onMake({ result: curve.result, name: `${curve.name} copy`, x: curve.x_spec, y: curve.y_spec })}
      >
        New curve from this one
      </button>
      <button
        type="button"
        className="link"
        onClick={() => remove.mutate(undefined, { onSuccess: () => set({ pairing: null }) })}
      >
        Remove
      </button>
    </div>
  );
}

function Agreement({ match, record }: { match: Match; record: TestRecord }) {
  const change = useChange((use: TestUse) => saveTest(record.id, use));
  const limits = record.use.limits!;
  const setLimit = (name: keyof typeof limits) => (share: number) =>
    change.mutate({ ...record.use, limits: { ...limits, [name]: share / 100 } });
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
            title={`Root mean square of model less test at the test's points, by branch; largest ${figure(match.deviation.largest, 3)} at ${figure(match.deviation.largest_at_x, 3)}`}
          >
            <td>
              RMS deviation <span className="quiet fig">{match.deviation.unit}</span>
            </td>
            <td />
            <td>{figure(match.deviation.rms, 3)}</td>
            <td className={match.deviation.accepted ? "" : "no"}>
              {percent(match.deviation.share, 2)}
              {!match.deviation.accepted && <span> ✕</span>}
            </td>
          </tr>
        </tbody>
      </table>
      <div className="row-line actions">
        <a className="link" download href={`/api/matches.csv?pairing=${match.pairing}&test=${match.test}`}>
          Agreement CSV
        </a>
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

function Record({ record, open }: { record: TestRecord | undefined; open: boolean }) {
  const { set } = useBench();
  const tests = useTests();
  const input = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const bring = useChange(async (file: File) => {
    const answer = await fetch(`/api/tests?name=${encodeURIComponent(file.name)}`, {
      method: "POST",
      body: file,
      headers: { "Content-Type": "text/csv" },
    });
    if (!answer.ok) throw toProblem(await answer.json().catch(() => undefined));
    return (await answer.json()) as TestRecord;
  });
  const take = (file: File | undefined) => {
    if (!file) return;
    setProblem(null);
    bring.mutate(file, {
      onSuccess: (made) => set({ test: made.id, strata: true, tab: "loop" }),
      onError: (error) => setProblem(error instanceof Problem ? error : new Problem(error.message, "")),
    });
  };
  const remove = useChange((id: number) => ask(api.DELETE("/api/tests/{test}", { params: { path: { test: id } } })));
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    take(e.dataTransfer.files[0]);
  };
  return (
    <details className="section" open={open || undefined}>
      <summary>Test record: columns, units, sign, zero</summary>
      {(tests.data?.length ?? 0) > 1 && (
        <Form.Select
          size="sm"
          aria-label="Record"
          value={record?.id ?? ""}
          onChange={(e) => set({ test: Number(e.target.value) })}
        >
          {tests.data!.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </Form.Select>
      )}
      {record && <RecordForm key={record.id} record={record} />}
      <div className="drop drop-small" onDragOver={(e) => e.preventDefault()} onDrop={onDrop}>
        <FileUp size={16} />
        <div>
          Drop a CSV record, or{" "}
          <button type="button" className="link" onClick={() => input.current?.click()}>
            pick a file
          </button>
        </div>
        <input
          ref={input}
          type="file"
          accept=".csv,.txt,.tsv,.dat"
          hidden
          data-testid="test-file"
          onChange={(e) => {
            take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {problem && (
        <div className="verdict verdict-bad" role="alert" data-testid="test-problem">
          <b>{problem.title}</b> {problem.hint}
          <div className="quiet">The review is as it was.</div>
        </div>
      )}
      {record && (
        <button
          type="button"
          className="link"
          onClick={() => remove.mutate(record.id, { onSuccess: () => set({ test: null }) })}
        >
          <Trash2 size={12} /> Remove {record.name}
        </button>
      )}
    </details>
  );
}

function RecordForm({ record }: { record: TestRecord }) {
  const change = useChange((use: TestUse) => saveTest(record.id, use));
  const setSide = (side: "x" | "y", part: Partial<TestUse["x"]>) =>
    change.mutate({ ...record.use, [side]: { ...record.use[side], ...part } });
  return (
    <>
      {(["x", "y"] as const).map((side) => {
        const use = record.use[side];
        const column = record.columns.find((c) => c.name === use.column);
        const word = side === "x" ? "Driver" : "Force";
        return (
          <fieldset className="use" key={side}>
            <legend>{word}</legend>
            <div className="row-line">
              <label htmlFor={`${side}-column`}>Column</label>
              <Form.Select
                id={`${side}-column`}
                size="sm"
                aria-label={`${word} column`}
                value={use.column}
                onChange={(e) =>
                  setSide(side, {
                    column: e.target.value,
                    unit: record.columns.find((c) => c.name === e.target.value)?.unit ?? null,
                  })
                }
              >
                {record.columns.map((c) => (
                  <option key={c.name} value={c.name}>
                    {c.name}
                  </option>
                ))}
              </Form.Select>
            </div>
            <div className="quiet small-line">
              as recorded <span className="fig">{figure(column?.low)}</span> to{" "}
              <span className="fig">{figure(column?.high)}</span> {column?.unit ?? "unit not stated"}
            </div>
            <div className="limits">
              <TextField
                label="Unit"
                value={use.unit ?? ""}
                name={`${word} unit`}
                onSet={(unit) => setSide(side, { unit: unit || null })}
              />
              <NumberField
                label="Zero at"
                name={`${word} zero`}
                value={use.zero!}
                onSet={(zero) => setSide(side, { zero })}
              />
              <div className="row-line">
                <span>Sign</span>
                <fieldset className="choice-row" aria-label={`${word} sign`}>
                  <button
                    type="button"
                    className={use.sign === 1 ? "on" : ""}
                    onClick={() => setSide(side, { sign: 1 })}
                  >
                    as is
                  </button>
                  <button
                    type="button"
                    className={use.sign === -1 ? "on" : ""}
                    onClick={() => setSide(side, { sign: -1 })}
                  >
                    turned
                  </button>
                </fieldset>
              </div>
              <NumberField
                label="Smooth"
                name={`${word} smoothing`}
                value={use.smooth!}
                onSet={(n) => setSide(side, { smooth: Math.round(n) })}
                min={1}
              />
            </div>
          </fieldset>
        );
      })}
    </>
  );
}

function TextField({
  label,
  name,
  value,
  onSet,
}: {
  label: string;
  name: string;
  value: string;
  onSet: (v: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    if (text !== null && text.trim() !== value) onSet(text.trim());
    setText(null);
  };
  return (
    <label className="row-line">
      {label}
      <input
        className="form-control form-control-sm fig"
        aria-label={name}
        value={text ?? value}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => e.key === "Enter" && finish()}
      />
    </label>
  );
}
