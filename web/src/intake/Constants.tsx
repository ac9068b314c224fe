import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents } from "../api/client";
import { useChange } from "../api/queries";
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
    </>
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
