import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents } from "../api/client";
import { useChange } from "../api/queries";
import { parse } from "../reading/format";

interface Props {
  contents: Contents;
  onStated: () => void;
}

/** What no file says: what a planar model stands for, and the elastic constants of each material. */
export function Constants({ contents, onStated }: Props) {
  const model = useChange((m: string) =>
    ask(api.PUT("/api/results/{result}/model", { params: { path: { result: contents.id } }, body: { model: m } })),
  );
  return (
    <>
      <h6>Materials</h6>
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
            <th />
            <th title="Young's modulus">E {contents.stress_unit}</th>
            <th title="Poisson's ratio">ν</th>
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
  const [young, setYoung] = useState<string | null>(null);
  const [poisson, setPoisson] = useState<string | null>(null);
  const change = useChange((body: { material: string; young: number | null; poisson: number | null }) =>
    ask(api.PUT("/api/results/{result}/materials", { params: { path: { result: contents.id } }, body })),
  );
  const shown = (typed: string | null, known: number | null) => typed ?? (known === null ? "" : String(known));
  const finish = () => {
    const e = parse(shown(young, material.young));
    const nu = parse(shown(poisson, material.poisson));
    if (young === null && poisson === null) return;
    const empty = shown(young, material.young) === "" && shown(poisson, material.poisson) === "";
    if (!empty && (e === null || nu === null)) return;
    change.mutate(
      { material: material.name, young: e, poisson: nu },
      {
        onSuccess: onStated,
        onSettled: () => {
          setYoung(null);
          setPoisson(null);
        },
      },
    );
  };
  const field = (label: string, value: string, onChange: (v: string) => void) => (
    <input
      className="form-control form-control-sm fig"
      inputMode="decimal"
      aria-label={`${label} of ${material.name}`}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      onBlur={finish}
      onKeyDown={(e) => e.key === "Enter" && finish()}
    />
  );
  return (
    <tr>
      <td title={`${material.elements} elements`}>{material.name}</td>
      <td>{field("Young's modulus", shown(young, material.young), setYoung)}</td>
      <td>{field("Poisson's ratio", shown(poisson, material.poisson), setPoisson)}</td>
    </tr>
  );
}
