import { useQueryClient } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import { api, ask, type Contents, measureOf, type Pairing, type PairingSpec, type TraceSpec } from "../api/client";
import { useChange, useNamed } from "../api/queries";
import { freshReading } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { PlaceField } from "../controls/PlaceField";
import { TextField } from "../controls/TextField";

/** A trace as it starts: a reading with nothing averaged, at no place yet. */
const freshTrace = (field: string, measure: string): TraceSpec => ({
  ...freshReading(field, measure),
  at: "",
  curve: "",
  sign: 1,
});

/** The curve an analyst would ask for first: the reaction of the supports against the mean displacement of the driven set. */
export function freshPairing(contents: Contents): PairingSpec | null {
  const driver = contents.rail.driver;
  const displacement = contents.fields.find((f) => f.kind === "displacement" && !f.harmonic);
  const reaction = contents.fields.find((f) => f.kind === "reaction" && !f.harmonic);
  const nodeSets = contents.sets.filter((s) => s.of === "nodes");
  const set = driver?.set ?? nodeSets[0]?.name;
  const support = contents.rail.supports[0] ?? nodeSets.find((s) => s.held === "held")?.name ?? set;
  if (!displacement || !reaction || !set || !support) return null;
  const axis = driver?.axis ?? "x";
  return {
    result: contents.id,
    name: "Loop",
    x: {
      ...freshTrace(displacement.name, axis),
      at: `set:${set}`,
      reduce: "mean",
      unit: displacement.unit,
      sign: 1,
    },
    y: {
      ...freshTrace(reaction.name, axis),
      at: `set:${support}`,
      reduce: "sum",
      unit: reaction.unit === "N" ? "kN" : reaction.unit,
      sign: -1,
    },
  };
}

/** The driver of a curve over the steps, to be held against the history that was prescribed. */
export const overTime = (curve: Pairing): PairingSpec => ({
  result: curve.result,
  name: `${curve.name}, driver over the steps`,
  x: { ...freshTrace("", ""), curve: "step" },
  y: curve.x_spec,
});

/** Stress against strain along the first axis in one element, to be held against the material's input curve. */
export function stressStrain(contents: Contents): PairingSpec | null {
  const tensor = (kind: string) => contents.fields.find((f) => f.kind === kind && f.rank === "tensor");
  const [stress, strain] = [tensor("stress"), tensor("strain")];
  if (!stress || !strain) return null;
  return {
    result: contents.id,
    name: "Stress–strain",
    x: { ...freshTrace(strain.name, "xx"), at: "element:1" },
    y: { ...freshTrace(stress.name, "xx"), at: "element:1", unit: stress.unit },
  };
}

export const signs: Option<1 | -1>[] = [
  { value: 1, label: "as is" },
  { value: -1, label: "reversed" },
];

const reductions = [
  ["sum", "sum"],
  ["mean", "mean"],
  ["max", "largest"],
  ["min", "smallest"],
] as const;

export function PairingForm({ pairing, contents }: { pairing: Pairing; contents: Contents }) {
  const client = useQueryClient();
  const change = useChange((part: Partial<PairingSpec>) => {
    const list = client.getQueryData<Pairing[]>(["pairings", pairing.result]);
    const known = list?.find((p) => p.id === pairing.id) ?? pairing;
    const { result, name, x_spec: x, y_spec: y, first, last, prominence } = known;
    const body = { result, name, x, y, first, last, prominence, ...part };
    return ask(api.PUT("/api/pairings/{pairing}", { params: { path: { pairing: pairing.id } }, body }));
  });
  const save = (part: Partial<PairingSpec>) => change.mutate(part);
  const most = contents.steps.length;
  return (
    <>
      <TextField
        label="Name"
        name="Name of the curve"
        className="wide-field"
        value={pairing.name}
        onSet={(name) => name && save({ name })}
      />
      <TraceFields word="Force" spec={pairing.y_spec} contents={contents} onChange={(y) => save({ y })} />
      <TraceFields word="Driver" spec={pairing.x_spec} contents={contents} onChange={(x) => save({ x })} />
      <fieldset className="use">
        <legend>Steps</legend>
        <div className="limits">
          <NumberField
            label="From"
            name="First step of the curve"
            value={(pairing.first ?? 0) + 1}
            min={1}
            max={most - 1}
            whole
            onSet={(n) => save({ first: n - 1 })}
          />
          <NumberField
            label="to"
            name="Last step of the curve"
            value={(pairing.last ?? most - 1) + 1}
            min={1}
            max={most}
            whole
            onSet={(n) => save({ last: n >= most ? null : n - 1 })}
          />
        </div>
      </fieldset>
      <fieldset className="use" title="Wiggles of the driver below this share of its range are not taken for turns">
        <legend>Turns</legend>
        <div className="limits">
          <NumberField
            label="Wiggles below"
            name="Wiggles of the driver that are no turns"
            unit="%"
            value={100 * (pairing.prominence ?? pairing.loops.prominence)}
            min={0.01}
            max={99}
            onSet={(percent) => save({ prominence: percent / 100 })}
          />
          {pairing.prominence === null ? (
            <span className="quiet small-line">
              {pairing.loops.prominence > 0.02 ? "found from its noise" : "as usual: it is not noisy"}
            </span>
          ) : (
            <button type="button" className="link" onClick={() => save({ prominence: null })}>
              find from its noise
            </button>
          )}
        </div>
      </fieldset>
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
  const named = useNamed(contents.id);
  const nodal = field.location === "node";
  const other = spec.curve === "step" || spec.curve?.startsWith("total:");
  const gone = spec.curve && !other && !(named.data ?? []).some((c) => c.name === spec.curve);
  return (
    <fieldset className="use">
      <legend>{word}</legend>
      <div className="limits" title="Places: node:12, element:5, gauss:5:1, point:0,0,1 or set:NAME">
        <Form.Select
          size="sm"
          aria-label={`${word} field`}
          value={spec.curve ? `=${spec.curve}` : spec.field}
          onChange={(e) => {
            if (e.target.value.startsWith("=")) {
              onChange({ ...spec, curve: e.target.value.slice(1) });
              return;
            }
            const next = contents.fields.find((f) => f.name === e.target.value)!;
            onChange({
              ...freshTrace(next.name, next.measures[0]?.name ?? ""),
              at: spec.at || `set:${sets[0]?.name ?? ""}`,
              sign: spec.sign,
              reduce: next.location === "node" ? spec.reduce : "max",
            });
          }}
        >
          {contents.fields.map((f) => (
            <option key={f.name} value={f.name}>
              {f.title}
            </option>
          ))}
          <option value="=step">the steps themselves</option>
          {contents.totals.map((t) => (
            <option key={t} value={`=total:${t}`}>
              {t.replaceAll("_", " ")}, whole model
            </option>
          ))}
          {(named.data ?? []).map((c) => (
            <option key={c.name} value={`=${c.name}`}>
              curve {c.name}
            </option>
          ))}
          {gone && <option value={`=${spec.curve}`}>curve {spec.curve}, gone</option>}
        </Form.Select>
        {!spec.curve && (
          <>
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
            <PlaceField
              label="At"
              className="place-field"
              name={`${word} place`}
              contents={contents}
              value={spec.at ?? ""}
              onSet={(at) =>
                onChange({
                  ...spec,
                  at,
                  reduce: at.startsWith("set:") ? (spec.reduce ?? (nodal ? "mean" : "max")) : null,
                })
              }
            />
            {spec.at?.startsWith("set:") && (
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
            )}
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
          </>
        )}
        <Choices
          name={`${word} sign of the model`}
          options={signs}
          value={spec.sign ?? 1}
          onChoose={(sign) => onChange({ ...spec, sign })}
        />
      </div>
    </fieldset>
  );
}
