import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask } from "../api/client";
import { removeKept } from "../api/kept";
import { useArrows, useFlags, useMeasured } from "../api/marks";
import { useChange, useContents, useValues } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { readingQuery } from "../bench/readingChoice";
import { type ArrowChoice, freshArrows, nothingPicked, type Picking, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Choices, named } from "../controls/Choices";
import { FoldField } from "../controls/FoldField";
import { NumberField } from "../controls/NumberField";
import { OfOthers } from "../controls/OfOthers";
import { Refused } from "../controls/Refused";
import { Switch } from "../controls/Switch";
import { figure, parse } from "../reading/format";

/** What is marked on the model: flags, highest and lowest, arrows, measures. */
export function MarksTab() {
  return (
    <div>
      <Flags />
      <Arrows />
      <Measure />
    </div>
  );
}

function Flags() {
  const { result, reading, step, picking, labelled, set } = useBench(
    "result",
    "reading",
    "step",
    "picking",
    "labelled",
    "set",
  );
  const values = useValues();
  const flags = useFlags(result);
  const [node, setNode] = useState("");
  const plant = useChange((n: number) => ask(api.POST("/api/flags", { body: { result: result!, node: n, name: "" } })));
  const remove = useChange((flag: number) => removeKept("flag", flag));
  return (
    <>
      <h3>Flags</h3>
      <div className="row-line">
        <span>A click plants at</span>
        <Choices<Picking>
          name="A click plants a flag"
          options={[
            { value: "flag", label: "the node" },
            { value: "point", label: "the point", title: "At the very point of the material, inside the element" },
          ]}
          value={picking}
          onChoose={(to) => set({ picking: to })}
        />
      </div>
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
        {values.data?.head.max?.node != null && !values.data.head.categories && (
          <button type="button" className="ghost" onClick={() => plant.mutate(values.data!.head.max!.node!)}>
            At highest
          </button>
        )}
      </form>
      {(flags.data?.length ?? 0) > 0 && (
        <div className="row-line actions">
          <button type="button" className="ghost" onClick={() => set({ strata: true, tab: "flags" })}>
            {flags.data!.length} in the table
          </button>
          {reading && (
            <AnswerLeaves what="Flags" kind="flags" words={{ result, ...readingQuery(reading, step) }} name="flags" />
          )}
          <button
            type="button"
            className="ghost"
            onClick={() => remove.mutate(flags.data![flags.data!.length - 1]!.id)}
          >
            Remove the last
          </button>
        </div>
      )}
      <OfOthers kind="flag" what="Flags" />
      <Switch
        id="labelled"
        label="Label highest and lowest in place"
        on={labelled}
        onSet={(on) => set({ labelled: on })}
      />
    </>
  );
}

function Arrows() {
  const { result, arrows, set } = useBench("result", "arrows", "set");
  const contents = useContents(result);
  const drawn = useArrows();
  const fields = (contents.data?.fields ?? []).filter((f) => f.rank !== "scalar" && f.kind !== "orientation");
  const chosen = fields.find((f) => f.name === arrows?.field);
  const change = (to: Partial<NonNullable<typeof arrows>>) => arrows && set({ arrows: { ...arrows, ...to } });
  return (
    <>
      <h3 className="sub">Arrows and crosses</h3>
      <div className="row-line">
        <label htmlFor="arrows">Of</label>
        <Form.Select
          id="arrows"
          size="sm"
          value={arrows?.field ?? ""}
          onChange={(e) =>
            set({ arrows: e.target.value ? { ...(arrows ?? freshArrows("")), field: e.target.value } : null })
          }
        >
          <option value="">nothing</option>
          {fields.map((f) => (
            <option key={f.name} value={f.name}>
              {f.title}, {f.rank === "vector" ? "arrows" : "principal crosses"}
            </option>
          ))}
        </Form.Select>
      </div>
      {arrows && (
        <>
          <NumberField
            label="Longest"
            unit="% of the model"
            value={100 * arrows.length}
            min={0.1}
            max={200}
            onSet={(v) => change({ length: v / 100 })}
          />
          <NumberField
            label="Spacing"
            unit="% of the model"
            value={100 * arrows.spacing}
            min={0}
            max={100}
            onSet={(v) => change({ spacing: v / 100 })}
          />
          <div className="row-line">
            <Choices
              name="Body of the arrows"
              options={named("thin", "full")}
              value={arrows.full ? "full" : "thin"}
              onChoose={(body) => change({ full: body === "full" })}
            />
            {chosen?.rank === "vector" && (
              <Choices<ArrowChoice["at"]>
                name="What of an arrow is at the point"
                options={[
                  { value: "tail", label: "tail at the point" },
                  { value: "tip", label: "tip at the point" },
                  {
                    value: "outside",
                    label: "outside",
                    title: "A push comes to its point, a pull leaves it: outside the body",
                  },
                ]}
                value={arrows.at}
                onChoose={(at) => change({ at })}
              />
            )}
          </div>
          {chosen?.rank === "vector" && (
            <Switch
              id="split-arrows"
              label="Each direction its own arrow"
              on={arrows.split}
              onSet={(split) => change({ split })}
            />
          )}
          <Refused error={drawn.error} />
        </>
      )}
    </>
  );
}

const measures: { what: "length" | "angle" | "area" | "volume"; hint: string }[] = [
  { what: "length", hint: "Click two nodes or more: the length along them." },
  { what: "angle", hint: "Click three nodes: the angle is at the second." },
  { what: "area", hint: "Click a face: it and the faces that join it smoothly." },
  { what: "volume", hint: "Click an element; with none, all that is shown." },
];

function Measure() {
  const { picking, measuring, set } = useBench("picking", "measuring", "set");
  const what = measures.find((m) => m.what === picking)?.what ?? null;
  const answer = useMeasured(what);
  const [typed, setTyped] = useState("");
  const pick = (to: Picking) => set({ picking: to, measuring: nothingPicked });
  const m = answer.data;
  return (
    <>
      <h3 className="sub">Measure</h3>
      <Choices
        name="Measure"
        options={named(...measures.map((k) => k.what))}
        value={what}
        onChoose={(to) => pick(picking === to ? "flag" : to)}
      />
      {what && <div className="quiet small-line">{measures.find((k) => k.what === what)!.hint}</div>}
      {(what === "length" || what === "angle") && (
        <form
          className="row-line"
          onSubmit={(e) => {
            e.preventDefault();
            const nodes = typed.split(/[\s,;]+/).map(Number);
            if (typed.trim() && nodes.every(Number.isInteger)) set({ measuring: { ...measuring, nodes } });
          }}
        >
          <label htmlFor="measure-nodes">Nodes</label>
          <input
            id="measure-nodes"
            className="form-control form-control-sm fig"
            placeholder={measuring.nodes.join(", ") || "12, 15"}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </form>
      )}
      {what === "area" && <FoldField />}
      {what && m && !answer.error && (
        <div className="measured" data-testid="measured">
          <div>{m.text}</div>
          <div>
            undeformed{" "}
            <b className="fig">
              {figure(m.undeformed, 6)} {m.unit}
            </b>
          </div>
          {m.deformed !== null && (
            <div>
              deformed{" "}
              <b className="fig">
                {figure(m.deformed, 6)} {m.unit}
              </b>
            </div>
          )}
          <button
            type="button"
            className="link"
            onClick={() =>
              void copyTable(
                ["what", "undeformed", "deformed"],
                ["", m.unit, m.unit],
                [[`${what}, ${m.text}`, m.undeformed, m.deformed ?? null]],
              )
            }
          >
            Copy
          </button>
        </div>
      )}
      <Refused error={what && answer.error} />
    </>
  );
}
