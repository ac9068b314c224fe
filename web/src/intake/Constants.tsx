import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents } from "../api/client";
import { useChange } from "../api/queries";
import { Section } from "../controls/Section";
import { parse } from "../reading/format";

interface Props {
  contents: Contents;
  onStated: () => void;
}

/** What no file says: what a planar model stands for, and the constants of each material. */
export function Constants({ contents, onStated }: Props) {
  const model = useChange((m: string) =>
    ask(api.PUT("/api/results/{result}/model", { params: { path: { result: contents.id } }, body: { model: m } })),
  );
  return (
    <>
      <h3 className="sub">Materials</h3>
      {contents.planar && (
        <div className="row-line">
          <label htmlFor="model">Planar model in</label>
          <Form.Select
            id="model"
            size="sm"
            value={contents.model}
            onChange={(e) => model.mutate(e.target.value, { onSuccess: onStated })}
          >
            {contents.models.map((m) => (
              <option key={m} value={m}>
                {m || "not stated"}
              </option>
            ))}
          </Form.Select>
        </div>
      )}
      <table className="figures" data-testid="materials">
        <thead>
          <tr>
            <th>
              <span className="visually-hidden">constant</span>
            </th>
            {contents.constants.map((c) => (
              <th key={c.name} title={c.label}>
                {c.symbol} {c.unit}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {contents.materials.map((m) => (
            <Row key={`${contents.id} ${m.name}`} contents={contents} material={m} onStated={onStated} />
          ))}
        </tbody>
      </table>
      <div className="quiet small-line">For error estimates, elastic stress from strain, and energy.</div>
      {contents.parts.length > 1 && <Rigid contents={contents} onStated={onStated} />}
    </>
  );
}

/** Which parts are rigid bodies: they have no stress and no strain, which is not zero. */
function Rigid({ contents, onStated }: Props) {
  const change = useChange((body: { part: string; rigid: boolean }) =>
    ask(api.PUT("/api/results/{result}/rigid", { params: { path: { result: contents.id } }, body })),
  );
  const count = contents.parts.filter((p) => p.rigid).length;
  return (
    <Section
      name={`rigid ${contents.id}`}
      testid="rigid"
      open={count > 0}
      summary={<>Rigid bodies {count > 0 && <span className="fig">{count}</span>}</>}
    >
      <fieldset className="tick-list" aria-label="Rigid bodies">
        {contents.parts.map((p) => (
          <label key={p.name}>
            <input
              type="checkbox"
              checked={change.isPending && change.variables.part === p.name ? change.variables.rigid : p.rigid}
              onChange={(e) => change.mutate({ part: p.name, rigid: e.target.checked }, { onSuccess: onStated })}
            />
            <span>{p.name}</span>
          </label>
        ))}
      </fieldset>
    </Section>
  );
}

function Row({ contents, material, onStated }: Props & { material: Contents["materials"][number] }) {
  const [typed, setTyped] = useState<Record<string, string>>({});
  const change = useChange((body: { material: string; constants: Record<string, number> }) =>
    ask(api.PUT("/api/results/{result}/materials", { params: { path: { result: contents.id } }, body })),
  );
  const shown = (name: string) => typed[name] ?? String(material.constants[name] ?? "");
  const finish = () => {
    if (Object.keys(typed).length === 0) return;
    const filled = contents.constants.filter((c) => shown(c.name).trim() !== "");
    const numbers = filled.map((c) => [c.name, parse(shown(c.name))] as const);
    if (numbers.some(([, value]) => value === null)) return;
    change.mutate(
      { material: material.name, constants: Object.fromEntries(numbers) as Record<string, number> },
      { onSuccess: onStated, onSettled: () => setTyped({}) },
    );
  };
  return (
    <tr>
      <td title={`${material.elements} elements`}>{material.name}</td>
      {contents.constants.map((c) => (
        <td key={c.name}>
          <input
            className="form-control form-control-sm fig"
            inputMode="decimal"
            aria-label={`${c.label} of ${material.name}`}
            value={shown(c.name)}
            onChange={(e) => setTyped({ ...typed, [c.name]: e.target.value })}
            onBlur={finish}
            onKeyDown={(e) => e.key === "Enter" && finish()}
          />
        </td>
      ))}
    </tr>
  );
}
