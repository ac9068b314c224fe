import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Schemas } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useContents, useNamed } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { Leaves } from "../controls/Leaves";
import { PlaceField } from "../controls/PlaceField";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { Section } from "../controls/Section";
import { useTyped } from "../controls/typed";
import { figure } from "../reading/format";

/** Curves over the steps under a name: traces of the reading in view, and what is worked out of them. */
export function NamedCurves() {
  const { result, reading, step, set } = useBench("result", "reading", "step", "set");
  const contents = useContents(result);
  const named = useNamed(result);
  const functions = useQuery({ queryKey: ["functions"], queryFn: () => ask(api.GET("/api/functions")) });
  const [name, setName] = useTyped("name of a new curve", "");
  const [how, setHow] = useState<"trace" | "expression">("trace");
  const [at, setAt] = useTyped("place of a new curve", "");
  const [reduce, setReduce] = useState<"mean" | "sum" | "max" | "min">("mean");
  const [expression, setExpression] = useTyped("expression of a new curve", "");
  const keep = useChange((body: Schemas["NamedIn"]) => ask(api.POST("/api/named", { body })));
  const remove = useChange((curve: number) => removeKept("named", curve));
  if (!contents.data) return null;
  const sets = contents.data.sets.map((s) => `set:${s.name}`);
  const place = at || sets[0] || "node:1";
  const field = contents.data.fields.find((f) => f.name === reading?.field);
  const done = () =>
    keep.mutate(
      {
        result: result!,
        name: name.trim(),
        expression: how === "expression" ? expression.trim() : "",
        trace:
          how === "trace" && reading
            ? {
                ...reading,
                at: place,
                curve: "",
                reduce: place.startsWith("set:") ? reduce : null,
                sign: 1,
              }
            : null,
      },
      {
        onSuccess: () => {
          setName("");
          setExpression("");
          set({ strata: true, tab: "curves" });
        },
      },
    );
  return (
    <Section name="named" testid="named" open={(named.data?.length ?? 0) > 0} summary="Curves by name">
      {(named.data ?? []).map((c) => (
        <div className="part-row" key={c.id} data-testid="named-curve">
          <span className="name" title={c.error ?? c.sentence}>
            <b>{c.name}</b> <span className="quiet">{c.expression ? `= ${c.expression}` : c.trace?.at}</span>
          </span>
          <span className="fig">{c.error ? "no value" : `${figure(c.values[step])} ${c.unit}`}</span>
          <RemoveButton what={`curve ${c.name}`} onRemove={() => remove.mutate(c.id)} />
          <Refused error={c.error} />
        </div>
      ))}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) done();
        }}
      >
        <Choices
          name="Made of"
          options={[
            { value: "trace", label: "the reading in view" },
            { value: "expression", label: "other curves" },
          ]}
          value={how}
          onChoose={setHow}
        />
        {how === "trace" ? (
          <>
            <PlaceField label="At" name="Place" contents={contents.data} value={at} onSet={setAt} />
            {place.startsWith("set:") && (
              <Form.Select
                size="sm"
                className="mt-1"
                aria-label="Over the set"
                value={reduce}
                onChange={(e) => setReduce(e.target.value as typeof reduce)}
              >
                <option value="mean">mean</option>
                <option value="sum" disabled={field?.location !== "node"}>
                  sum
                </option>
                <option value="max">largest</option>
                <option value="min">smallest</option>
              </Form.Select>
            )}
          </>
        ) : (
          <>
            <input
              className="form-control form-control-sm fig"
              aria-label="Expression"
              placeholder="integral(F, u)/2"
              value={expression}
              onChange={(e) => setExpression(e.target.value)}
            />
            <div className="quiet small-line">
              Names, <i>step</i>,{" "}
              {contents.data.totals.length > 0 &&
                `${contents.data.totals.map((t) => t.replace(/\s*[[(].*$/, "")).join(", ")} of the whole model, `}{" "}
              numbers, + − * / **, and {Object.keys(functions.data ?? {}).join(", ")}. Units are carried.
            </div>
          </>
        )}
        <div className="row-line">
          <input
            className="form-control form-control-sm name-field"
            aria-label="Name of the new curve"
            placeholder="name, like F"
            maxLength={40}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="ghost" disabled={!/^[A-Za-z][A-Za-z0-9_]*$/.test(name.trim())}>
            Keep
          </button>
        </div>
      </form>
      {(named.data?.length ?? 0) > 0 && <Leaves what="Curves" address={`/api/results/${result}/curves`} />}
    </Section>
  );
}
