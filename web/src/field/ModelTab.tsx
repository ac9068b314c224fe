import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents } from "../api/client";
import { useChange, useContents, useDeformation, useInView } from "../api/queries";
import { type Style, useBench } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { Refused } from "../controls/Refused";
import { Switch } from "../controls/Switch";
import { figure, parse, roundUp } from "../reading/format";
import { Alongside } from "./Alongside";
import { Parts } from "./Parts";

const styles: Option<Style>[] = [
  { value: "shaded", label: "shaded", title: "Faces with the reading on them" },
  { value: "lines", label: "lines", title: "Element edges of the skin, what lies behind hidden" },
  { value: "inside", label: "inside", title: "Every element edge, also inside" },
  { value: "outline", label: "silhouette", title: "Borders and folds alone" },
];

/** What of the model is drawn, and how. */
export function ModelTab() {
  const { result, look, setLook, meshLines, set } = useBench("result", "look", "setLook", "meshLines", "set");
  const contents = useContents(result);
  if (!contents.data) return null;
  const thin = Object.keys(contents.data.cells).some((c) => /^(line|tri|quad)/.test(c)) && !contents.data.planar;
  const curved = Object.keys(contents.data.cells).some(
    (c) => Number(c.replace(/\D/g, "")) > 8 || /line3|tri6|quad8/.test(c),
  );
  return (
    <div>
      <Parts contents={contents.data} />
      <Alongside />
      <h3 className="sub">Drawn as</h3>
      <Choices name="Drawn as" options={styles} value={look.style} onChoose={(style) => setLook({ style })} />
      <Switch
        id="mesh-lines"
        label="Element edges (M)"
        disabled={look.style !== "shaded"}
        on={meshLines}
        onSet={(on) => set({ meshLines: on })}
      />
      <Switch id="nodes" label="Nodes" on={look.nodes} onSet={(nodes) => setLook({ nodes })} />
      <Switch id="apart" label="Elements drawn apart" on={look.apart} onSet={(apart) => setLook({ apart })} />
      {thin && (
        <>
          <Switch
            id="solid"
            label="Own section and thickness"
            disabled={!contents.data.sections}
            on={look.solid}
            onSet={(solid) => setLook({ solid })}
          />
          {!contents.data.sections && (
            <div className="quiet small-line">
              The file has no element field of thickness or section area. A bar is drawn as a thin tube, a shell as its
              middle.
            </div>
          )}
        </>
      )}
      <div className="row-line">
        <label htmlFor="detail">Each face side in</label>
        <Form.Select
          id="detail"
          size="sm"
          value={look.detail}
          title={curved ? "Curved sides follow the element's own interpolation" : "All sides here are straight"}
          onChange={(e) => setLook({ detail: Number(e.target.value) })}
        >
          <option value={0}>as many as the size allows</option>
          {[1, 2, 4, 8, 12].map((n) => (
            <option key={n} value={n}>
              {n === 1 ? "1 piece, straight" : `${n} pieces`}
            </option>
          ))}
        </Form.Select>
      </div>
      <Deformed contents={contents.data} />
      <Half contents={contents.data} />
    </div>
  );
}

function Deformed({ contents }: { contents: Contents }) {
  const { exaggeration, undeformed, step, set } = useBench("exaggeration", "undeformed", "step", "set");
  const moves = contents.moves;
  const shape = useDeformation(useInView(), moves);
  const largest = shape.data?.head.largest ?? 0;
  // A mode has no size of its own: it may be drawn smaller than its file has it.
  const least = contents.steps[step]?.kind === "mode" ? 0 : 1;
  const automatic = largest > 0 ? Math.max(least, roundUp((0.06 * contents.size) / largest)) : 1;
  return (
    <>
      <h3 className="sub">Deformed shape</h3>
      {!moves && <div className="quiet">No displacement in this result.</div>}
      {moves && (
        <>
          <div className="row-line">
            <label htmlFor="exaggeration">Exaggeration</label>
            <Exaggeration value={exaggeration} onSet={(v) => set({ exaggeration: v })} />
          </div>
          <Choices
            name="Exaggeration"
            options={[
              { value: 1, label: "true, 1" },
              // On a shape that moves enough the automatic factor is the true one, and is not offered twice.
              ...(automatic === 1 ? [] : [{ value: automatic, label: `automatic, ${figure(automatic, 2)}` }]),
              { value: 0, label: "undeformed" },
            ]}
            value={exaggeration}
            onChoose={(v) => set({ exaggeration: v })}
          />
          <Switch
            id="undeformed"
            label="Outline of the undeformed"
            on={undeformed}
            onSet={(on) => set({ undeformed: on })}
          />
        </>
      )}
    </>
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

/** A result that is one half of a body: the plane it was cut at, and whether the other half is drawn. */
function Half({ contents }: { contents: Contents }) {
  const { look, setLook } = useBench("look", "setLook");
  const half = contents.mirror;
  const client = useQueryClient();
  const state = useChange(async (body: { axis: "" | "x" | "y" | "z"; at: number }) => {
    await ask(api.PUT("/api/results/{result}/mirror", { params: { path: { result: contents.id } }, body }));
    await client.invalidateQueries();
  });
  const axis = half ? ("xyz"[half.axis] as "x" | "y" | "z") : "";
  return (
    <>
      <h3 className="sub">Half of a body</h3>
      <div className="row-line">
        <label htmlFor="half">Mirrored at</label>
        <Form.Select
          id="half"
          size="sm"
          value={axis}
          onChange={(e) => state.mutate({ axis: e.target.value as "" | "x" | "y" | "z", at: half?.at ?? 0 })}
        >
          <option value="">no plane: it is whole</option>
          {["x", "y", "z"].map((a) => (
            <option key={a} value={a}>
              {a} = {figure(half?.at ?? 0)}
            </option>
          ))}
        </Form.Select>
      </div>
      {half && axis && (
        <>
          <NumberField label={`Plane at ${axis}`} value={half.at} onSet={(at) => state.mutate({ axis, at })} />
          <Switch
            id="mirrored"
            label="Draw the mirror image"
            on={look.mirrored}
            onSet={(mirrored) => setLook({ mirrored })}
          />
          <div className="quiet small-line">Sums over sets are doubled, square to the plane nothing is left.</div>
        </>
      )}
      <Refused error={state.error} />
    </>
  );
}
