import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask } from "../api/client";
import { useAveragings, useChange, useContents, useDeformation, useRange, useValues } from "../api/queries";
import { save } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { type Averaging, freshKey, type MapName, useBench } from "../bench/store";
import { pictureOfView } from "../exhibits/picture";
import { figure, parse, roundUp } from "../reading/format";
import { mapLabels } from "../theme/colours";

const shortNames: Record<Averaging, string> = {
  off: "off",
  element: "element mean",
  part: "within part",
  material: "within material",
  all: "everywhere",
};

/** Looking at the field: what averaging does, the key, the deformed shape, flags. */
export function FieldDrawer() {
  const { result, reading, step, key, setKey, set, setReading, exaggeration, meshLines, undeformed } = useBench();
  const contents = useContents(result);
  const values = useValues();
  const averagings = useAveragings(reading !== null);
  const range = useRange(key.fit === "all");
  const moves = contents.data?.fields.some((f) => f.kind === "displacement") ?? false;
  const shape = useDeformation(result, step, moves);
  const [node, setNode] = useState("");
  const plant = useChange((n: number) => ask(api.POST("/api/flags", { body: { result: result!, node: n } })));
  if (!reading || !contents.data) return <h5>Field</h5>;
  const off = averagings.data?.find((a) => a.averaging === "off");
  const largest = shape.data?.head.largest ?? 0;
  const automatic = largest > 0 ? Math.max(1, roundUp((0.06 * contents.data.size) / largest)) : 1;
  const nodal = contents.data.fields.find((f) => f.name === reading.field)?.location === "node";
  return (
    <div data-testid="field">
      <h5>Averaging</h5>
      <table className="figures averagings" data-testid="averagings">
        <thead>
          <tr>
            <th>at this step</th>
            <th>lowest</th>
            <th>highest</th>
            <th title="against each corner as computed">change</th>
          </tr>
        </thead>
        <tbody>
          {(averagings.data ?? []).map((a) => {
            const change = off?.max?.value && a.max?.value ? a.max.value / off.max.value - 1 : null;
            return (
              <tr key={a.averaging} className={reading.averaging === a.averaging ? "chosen" : ""}>
                <td>
                  <label>
                    <input
                      type="radio"
                      name="averaging"
                      checked={reading.averaging === a.averaging}
                      onChange={() => setReading({ averaging: a.averaging })}
                    />
                    {shortNames[a.averaging]}
                  </label>
                </td>
                <td>{figure(a.min?.value)}</td>
                <td>{figure(a.max?.value)}</td>
                <td>
                  {a.averaging === "off" || change === null
                    ? ""
                    : `${change > 5e-5 ? "+" : ""}${figure(100 * change, 2)}\u202f%`}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {!nodal && (
        <div className="row-line">
          <span>Show</span>
          <fieldset className="choice-row" aria-label="Value or jump">
            {(
              [
                ["value", "value"],
                ["jump", "jump (J)"],
                ["jump-within-material", "within material"],
              ] as const
            ).map(([of, label]) => (
              <button
                type="button"
                key={of}
                className={reading.of === of ? "on" : ""}
                onClick={() => setReading({ of, averaging: of === "value" ? reading.averaging : "off" })}
              >
                {label}
              </button>
            ))}
          </fieldset>
        </div>
      )}
      {nodal && <div className="quiet small-line">A nodal field: one value at each node, nothing to average.</div>}
      {!nodal && ["part", "material", "all"].includes(reading.averaging) && (
        <div className="row-line">
          <label htmlFor="order">Averaged first</label>
          <Form.Select
            id="order"
            size="sm"
            value={reading.order}
            onChange={(e) => setReading({ order: e.target.value as "components" | "measure" })}
          >
            <option value="components">components</option>
            <option value="measure">the measure</option>
          </Form.Select>
        </div>
      )}
      <h6>Colour key</h6>
      <div className="row-line">
        <span>Limits</span>
        <fieldset className="choice-row" aria-label="Limits">
          <button
            type="button"
            className={key.fit === "step" ? "on" : ""}
            onClick={() => setKey({ fit: "step", low: null, high: null })}
          >
            this step
          </button>
          <button
            type="button"
            className={key.fit === "all" ? "on" : ""}
            onClick={() => setKey({ fit: "all", low: null, high: null })}
          >
            all steps
          </button>
          <button
            type="button"
            className={key.fit === "set" ? "on" : ""}
            onClick={() =>
              setKey({
                fit: "set",
                low: key.low ?? values.data?.head.min?.value ?? 0,
                high: key.high ?? values.data?.head.max?.value ?? 1,
              })
            }
          >
            held
          </button>
        </fieldset>
      </div>
      {key.fit === "all" && (
        <div className="quiet small-line" role="status">
          {range.isFetching ? (
            "Reading all steps …"
          ) : range.data ? (
            <>
              Lowest at step {(range.data.low_step ?? 0) + 1}, highest at step {(range.data.high_step ?? 0) + 1}.
            </>
          ) : (
            ""
          )}
        </div>
      )}
      <div className="row-line">
        <label htmlFor="bands">Bands</label>
        <Form.Select id="bands" size="sm" value={key.bands} onChange={(e) => setKey({ bands: Number(e.target.value) })}>
          {[5, 6, 7, 8, freshKey.bands, 10, 12, 16, 24].map((n) => (
            <option key={n} value={n}>
              {n}
            </option>
          ))}
          <option value={0}>continuous</option>
        </Form.Select>
      </div>
      <div className="row-line">
        <label htmlFor="map">Colours</label>
        <Form.Select id="map" size="sm" value={key.map} onChange={(e) => setKey({ map: e.target.value as MapName })}>
          {(Object.keys(mapLabels) as MapName[]).map((m) => (
            <option key={m} value={m}>
              {mapLabels[m]}
            </option>
          ))}
        </Form.Select>
      </div>
      <Form.Check
        type="switch"
        id="log"
        label="Logarithmic"
        checked={key.log}
        disabled={!((values.data?.head.min?.value ?? 0) > 0) && !key.log}
        onChange={(e) =>
          setKey(
            e.target.checked
              ? {
                  log: true,
                  low: key.low !== null && key.low > 0 ? key.low : (values.data?.head.min?.value ?? null),
                  high: key.high,
                  fit: key.fit,
                }
              : { log: false, low: key.fit === "set" ? key.low : null },
          )
        }
      />
      <h6>Deformed shape</h6>
      {moves ? (
        <>
          <div className="row-line">
            <label htmlFor="exaggeration">Exaggeration</label>
            <Exaggeration value={exaggeration} onSet={(v) => set({ exaggeration: v })} />
          </div>
          <fieldset className="choice-row" aria-label="Exaggeration">
            <button type="button" className={exaggeration === 1 ? "on" : ""} onClick={() => set({ exaggeration: 1 })}>
              true, 1
            </button>
            <button type="button" onClick={() => set({ exaggeration: automatic })}>
              automatic, {figure(automatic, 2)}
            </button>
            <button type="button" className={exaggeration === 0 ? "on" : ""} onClick={() => set({ exaggeration: 0 })}>
              undeformed
            </button>
          </fieldset>
          <Form.Check
            type="switch"
            id="undeformed"
            label="Outline of the undeformed"
            checked={undeformed}
            onChange={(e) => set({ undeformed: e.target.checked })}
          />
        </>
      ) : (
        <div className="quiet">No displacement in this result.</div>
      )}
      <Form.Check
        type="switch"
        id="mesh-lines"
        label="Element edges (M)"
        checked={meshLines}
        onChange={(e) => set({ meshLines: e.target.checked })}
      />
      <h6>Flags</h6>
      <form
        className="row-line"
        onSubmit={(e) => {
          e.preventDefault();
          const n = parse(node);
          if (n === null) return;
          plant.mutate(Math.round(n), { onSuccess: () => setNode("") });
        }}
      >
        <label htmlFor="flag-node">Node</label>
        <input
          id="flag-node"
          className="form-control form-control-sm fig"
          inputMode="numeric"
          value={node}
          onChange={(e) => setNode(e.target.value)}
        />
        <button type="submit" className="ghost" disabled={parse(node) === null}>
          Plant
        </button>
        {values.data?.head.max?.node != null && (
          <button type="button" className="ghost" onClick={() => plant.mutate(values.data!.head.max!.node!)}>
            At highest
          </button>
        )}
      </form>
      <div className="row-line actions">
        <button type="button" className="ghost" onClick={() => set({ fitCount: useBench.getState().fitCount + 1 })}>
          Fit view (F)
        </button>
        <button
          type="button"
          className="ghost"
          onClick={() => {
            try {
              save(pictureOfView(values.data!.head), `${contents.data!.name} ${values.data!.head.sentence}.png`);
            } catch (error) {
              tell(error);
            }
          }}
        >
          Picture PNG
        </button>
      </div>
    </div>
  );
}

function Exaggeration({ value, onSet }: { value: number; onSet: (v: number) => void }) {
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    const typed = text === null ? null : parse(text);
    if (typed !== null && typed >= 0 && typed <= 1e7) onSet(typed);
    setText(null);
  };
  return (
    <span className="with-unit">
      <input
        id="exaggeration"
        className="form-control form-control-sm fig"
        inputMode="decimal"
        value={text ?? figure(value, 3)}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => e.key === "Enter" && finish()}
      />
      ×
    </span>
  );
}
