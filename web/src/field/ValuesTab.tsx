import { useState } from "react";
import { Form } from "react-bootstrap";
import { useAveragings, useContents, useLine, useRange, useValues } from "../api/queries";
import { say } from "../bench/notices";
import { type Fit, freshKey, type Of, type ReadingChoice, useBench } from "../bench/store";
import { Choices, named } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { PointField } from "../controls/PointField";
import { Switch } from "../controls/Switch";
import { digitsBetween, figure, percent } from "../reading/format";
import { type MapName, mapLabels } from "../theme/colours";
import { useView } from "../view/handle";
import { AxesForm } from "./AxesForm";
import { ByPart } from "./ByPart";

/** What the reading is, and the key it is told by. */
export function ValuesTab() {
  const { result, reading, setReading } = useBench("result", "reading", "setReading");
  const contents = useContents(result);
  const values = useValues();
  const line = useLine();
  const large = (contents.data?.elements ?? 0) > 200_000;
  const [compare, setCompare] = useState(false);
  const averagings = useAveragings(reading !== null && (!large || compare));
  if (!reading || !contents.data) return null;
  const off = averagings.data?.find((a) => a.averaging === "off");
  const field = contents.data.fields.find((f) => f.name === reading.field);
  const nodal = field?.location === "node";
  const named = field?.names ?? false;
  const choices = (line.data?.averaging ?? []).filter(
    (c) => !c.impossible && (c.value !== "material" || contents.data!.materials.length > 1),
  );
  const onPlane = field?.measures.find((m) => m.name === reading.measure)?.needs.includes("plane") ?? false;
  const shells = Object.keys(contents.data.cells).some((c) => c.startsWith("tri") || c.startsWith("quad"));
  return (
    <div>
      <h3>Averaging</h3>
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
          {choices.map((c) => {
            const a = averagings.data?.find((known) => known.averaging === c.value);
            const change = off?.max?.value && a?.max?.value ? a.max.value / off.max.value - 1 : null;
            return (
              <tr key={c.value} className={reading.averaging === c.value ? "chosen" : ""}>
                <td>
                  <label>
                    <input
                      type="radio"
                      name="averaging"
                      checked={reading.averaging === c.value}
                      onChange={() => setReading(c.change as Partial<ReadingChoice>)}
                    />
                    {c.short}
                  </label>
                </td>
                <td>{a?.min ? figure(a.min.value, digitsBetween(a.min.value, a.max?.value)) : ""}</td>
                <td>{a?.max ? figure(a.max.value, digitsBetween(a.min?.value, a.max.value)) : ""}</td>
                <td>
                  {c.value === "off" || change === null
                    ? ""
                    : `${change > 5e-5 ? "+" : ""}${figure(100 * change, 2)}\u202f%`}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {large && !compare && (
        <button type="button" className="link" onClick={() => setCompare(true)}>
          Compare them: a few seconds on so large a model
        </button>
      )}
      {!nodal && (
        <div className="row-line">
          <Choices<Of>
            name="Value or jump"
            options={(line.data?.of ?? []).map((c) => ({
              value: c.value as Of,
              label: c.short,
              disabled: Boolean(c.impossible),
              title: c.impossible || c.explanation,
            }))}
            value={reading.of}
            onChoose={(of) => setReading({ of, averaging: of === "value" ? reading.averaging : "off" })}
          />
        </div>
      )}
      {reading.of === "error" && values.data?.head.error_total != null && (
        <div className="small-line" data-testid="error-total">
          In total <b className="fig">{percent(values.data.head.error_total)}</b> of the energy norm.
        </div>
      )}
      {nodal && !named && (
        <div className="quiet small-line">A nodal field: one value at each node, nothing to average.</div>
      )}
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
      {!nodal && ["part", "material", "all"].includes(reading.averaging) && (
        <div className="row-line">
          <label htmlFor="weight">Each element counts</label>
          <Form.Select
            id="weight"
            size="sm"
            value={reading.weight}
            onChange={(e) => setReading({ weight: e.target.value as "plain" | "volume" })}
          >
            <option value="plain">the same</option>
            <option value="volume">by its volume</option>
          </Form.Select>
        </div>
      )}
      {shells && !contents.data.planar && ["part", "material"].includes(reading.averaging) && (
        <NumberField
          label="Feature angle for shells"
          unit="°"
          value={reading.fold}
          min={0}
          max={180}
          onSet={(fold) => setReading({ fold })}
        />
      )}
      {onPlane && (
        <PointField
          label="Normal of the plane"
          value={reading.plane ?? "0,0,1"}
          direction
          onSet={(plane) => setReading({ plane })}
        />
      )}
      {field?.rank !== "scalar" && <AxesForm contents={contents.data} />}
      {named ? (
        <div className="quiet small-line">These numbers name something: the key lists the names.</div>
      ) : (
        <>
          <ByPart />
          <KeySettings />
        </>
      )}
    </div>
  );
}

/** Limits, bands, colours of the key. */
function KeySettings() {
  const { key, setKey } = useBench("key", "setKey");
  const view = useView();
  const values = useValues();
  const range = useRange(key.fit === "all");
  const head = values.data?.head;
  const fitTo = (to: Fit | "visible") => {
    if (to === "step" || to === "all") setKey({ fit: to, low: null, high: null });
    else if (to === "set")
      setKey({ fit: to, low: key.low ?? head?.min?.value ?? 0, high: key.high ?? head?.max?.value ?? 1 });
    else {
      const seen = view.visibleRange?.();
      if (seen) setKey({ fit: "set", low: seen[0], high: seen[1] });
      else say("No value lies inside the window.");
    }
  };
  return (
    <>
      <h3 className="sub">Colour key</h3>
      <div>
        <div className="small-line">Limits fitted to</div>
        <Choices
          name="Limits"
          options={[
            { value: "step", label: "this step" },
            { value: "all", label: "all steps" },
            {
              value: "visible",
              label: "visible",
              title: "What lies inside the window now, of the parts that are shown",
            },
            { value: "set", label: "fixed", title: "As they are now, whatever step comes" },
          ]}
          value={key.fit}
          onChoose={fitTo}
        />
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
      <NumberField
        label="Bands"
        unit={key.bands === 0 ? "continuous" : ""}
        value={key.bands}
        min={0}
        max={64}
        whole
        onSet={(bands) => setKey({ bands })}
      />
      <div className="row-line">
        <span>Drawn as</span>
        <Choices
          name="Bands or continuous"
          options={named("bands", "continuous")}
          value={key.bands > 0 ? "bands" : "continuous"}
          onChoose={(to) => setKey({ bands: to === "bands" ? freshKey.bands : 0 })}
        />
      </div>
      <div className="row-line">
        <span>Isolines</span>
        <Choices
          name="Isolines"
          options={named("none", "over", "alone")}
          value={key.iso}
          onChoose={(iso) => setKey({ iso })}
        />
      </div>
      <div className="row-line">
        <span>Distribution by</span>
        <Choices
          name="Distribution by"
          options={named("area", "volume")}
          value={key.weigh}
          onChoose={(weigh) => setKey({ weigh })}
        />
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
      <Switch
        id="log"
        label="Logarithmic"
        on={key.log}
        disabled={!head?.limits?.logarithmic && !key.log}
        onSet={(log) =>
          setKey(
            log
              ? { log, low: key.low !== null && key.low > 0 ? key.low : (head?.limits?.logarithmic?.[0] ?? null) }
              : { log, low: key.fit === "set" ? key.low : null },
          )
        }
      />
    </>
  );
}
