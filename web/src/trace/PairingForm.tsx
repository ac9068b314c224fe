import { Form } from "react-bootstrap";
import { api, ask, type Contents, measureOf, type Pairing, type PairingSpec, type TraceSpec } from "../api/client";
import { useChange } from "../api/queries";

/** The curve an analyst would ask for first: the reaction of the supports against the mean displacement of the driven set. */
export function freshPairing(contents: Contents): PairingSpec | null {
  const driver = contents.rail.driver;
  const displacement = contents.fields.find((f) => f.kind === "displacement");
  const reaction = contents.fields.find((f) => f.kind === "reaction");
  const nodeSets = contents.sets.filter((s) => s.of === "nodes");
  const set = driver?.set ?? nodeSets[0]?.name;
  const support = contents.rail.supports[0] ?? nodeSets.find((s) => s.held === "held")?.name ?? set;
  if (!displacement || !reaction || !set || !support) return null;
  const axis = driver?.axis ?? "x";
  const base = { averaging: "off" as const, order: "components" as const };
  return {
    result: contents.id,
    name: "Loop",
    x: {
      ...base,
      field: displacement.name,
      measure: axis,
      at: `set:${set}`,
      reduce: "mean",
      unit: displacement.unit,
      sign: 1,
    },
    y: {
      ...base,
      field: reaction.name,
      measure: axis,
      at: `set:${support}`,
      reduce: "sum",
      unit: reaction.unit === "N" ? "kN" : reaction.unit,
      sign: -1,
    },
  };
}

const reductions = [
  ["sum", "sum"],
  ["mean", "mean"],
  ["max", "largest"],
  ["min", "smallest"],
] as const;

export function PairingForm({ pairing, contents }: { pairing: Pairing; contents: Contents }) {
  const change = useChange((spec: PairingSpec) =>
    ask(api.PUT("/api/pairings/{pairing}", { params: { path: { pairing: pairing.id } }, body: spec })),
  );
  const save = (part: Partial<PairingSpec>) =>
    change.mutate({ result: pairing.result, name: pairing.name, x: pairing.x_spec, y: pairing.y_spec, ...part });
  return (
    <>
      <TraceFields word="Force" spec={pairing.y_spec} contents={contents} onChange={(y) => save({ y })} />
      <TraceFields word="Driver" spec={pairing.x_spec} contents={contents} onChange={(x) => save({ x })} />
    </>
  );
}

function TraceFields({
  word,
  spec,
  contents,
  onChange,
}: {
  word: string;
  spec: TraceSpec;
  contents: Contents;
  onChange: (s: TraceSpec) => void;
}) {
  const field = contents.fields.find((f) => f.name === spec.field) ?? contents.fields[0]!;
  const measure = measureOf(field, spec.measure ?? "");
  const sets = contents.sets;
  return (
    <fieldset className="use">
      <legend>{word}</legend>
      <div className="limits">
        <Form.Select
          size="sm"
          aria-label={`${word} field`}
          value={spec.field}
          onChange={(e) => {
            const next = contents.fields.find((f) => f.name === e.target.value)!;
            onChange({
              ...spec,
              field: next.name,
              measure: next.measures[0]?.name ?? "",
              unit: null,
              reduce: next.location === "node" ? spec.reduce : "max",
            });
          }}
        >
          {contents.fields.map((f) => (
            <option key={f.name} value={f.name}>
              {f.name.replaceAll("_", " ")}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={`${word} measure`}
          value={spec.measure}
          onChange={(e) => onChange({ ...spec, measure: e.target.value, unit: null })}
        >
          {field.measures.map((m) => (
            <option key={m.name} value={m.name}>
              {m.label}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={`${word} set`}
          value={spec.at}
          onChange={(e) => onChange({ ...spec, at: e.target.value })}
        >
          {!sets.some((s) => `set:${s.name}` === spec.at) && <option value={spec.at}>{spec.at}</option>}
          {sets.map((s) => (
            <option key={s.name} value={`set:${s.name}`}>
              set {s.name}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={`${word} over the set`}
          value={spec.reduce ?? ""}
          onChange={(e) => onChange({ ...spec, reduce: e.target.value as TraceSpec["reduce"] })}
        >
          {reductions.map(([v, label]) => (
            <option key={v} value={v} disabled={v === "sum" && field.location !== "node"}>
              {label}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={`${word} unit`}
          value={spec.unit ?? measure?.unit ?? ""}
          onChange={(e) => onChange({ ...spec, unit: e.target.value })}
        >
          {(measure?.units ?? []).map((u) => (
            <option key={u} value={u}>
              {u || "pure number"}
            </option>
          ))}
        </Form.Select>
        <fieldset className="choice-row" aria-label={`${word} sign of the model`}>
          <button type="button" className={spec.sign === 1 ? "on" : ""} onClick={() => onChange({ ...spec, sign: 1 })}>
            as is
          </button>
          <button
            type="button"
            className={spec.sign === -1 ? "on" : ""}
            onClick={() => onChange({ ...spec, sign: -1 })}
          >
            turned
          </button>
        </fieldset>
      </div>
    </fieldset>
  );
}
