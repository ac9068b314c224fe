import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents } from "../api/client";
import { useChange } from "../api/queries";
import { useBench } from "../bench/store";
import { Section } from "../controls/Section";
import { useTyped } from "../controls/typed";
import { figure } from "../reading/format";
import { type Point, parsePoint, pointHint } from "../reading/typed";
import { useAxes } from "../view/makeAxes";

type Kind = "cartesian" | "cylindrical" | "spherical";

const third: Record<Kind, string> = {
  cartesian: "Point in the third direction",
  cylindrical: "Point on the axis",
  spherical: "Point at the pole",
};

/** Axes kept with the result: chosen, made by three points, removed. */
export function AxesForm({ contents }: { contents: Contents }) {
  const { reading, setReading } = useBench("reading", "setReading");
  const [name, setName] = useTyped("name of new axes", "");
  const [kind, setKind] = useState<Kind>("cylindrical");
  const [points, setPoints] = useTyped("points of new axes", ["0, 0, 0", "0, 0, 1", "1, 0, 0"]);
  const read = points.map(parsePoint);
  const ready = name.trim() !== "" && read.every((p) => p !== null);
  const result = contents.id;
  const remove = useChange((n: string) =>
    ask(api.DELETE("/api/results/{result}/axes/{name}", { params: { path: { result, name: n } } })),
  );
  const client = useQueryClient();
  const { make } = useAxes();
  const { picks, making, picking, set } = useBench("picks", "making", "picking", "set");
  const picked = picking === "axes" && making?.by === "nodes" ? picks : [];
  // Three nodes are enough: they are the axes.
  const nodes = picked.length === 3 ? picked.map((p) => p.node).join() : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each three nodes
  useEffect(() => {
    if (nodes) make({ how: "nodes", kind, nodes: nodes.split(",").map(Number), name: name.trim() }, () => setName(""));
  }, [nodes]);
  const pick = (by: "face" | "nodes") =>
    set(
      picking === "axes" && making?.by === by
        ? { picking: "flag", making: null, picks: [] }
        : { picking: "axes", making: { want: "", by }, picks: [] },
    );
  const own = contents.axes.filter((a) => !["global", "element", "material"].includes(a.name));
  return (
    <Section
      name="axes"
      testid="axes"
      summary={
        <>
          Axes <span className="fig">{own.length ? own.map((a) => a.name).join(", ") : "global"}</span>
        </>
      }
    >
      {own.map((a) => (
        <div className="row-line" key={a.name}>
          <button
            type="button"
            className={`link ${reading?.axes === a.name ? "on" : ""}`}
            onClick={() => setReading({ axes: a.name })}
          >
            {a.name}
          </button>
          <small className="quiet">
            {a.kind} at {a.origin.map((v) => figure(v, 4)).join(", ")}
            {a.how && `; ${a.how}`}
          </small>
          <button
            type="button"
            className="link"
            aria-label={`Remove axes ${a.name}`}
            onClick={() => {
              if (reading?.axes === a.name) setReading({ axes: "global" });
              remove.mutate(a.name, { onSuccess: () => void client.invalidateQueries() });
            }}
          >
            remove
          </button>
        </div>
      ))}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          const [origin, third, first] = read as [Point, Point, Point];
          make({ name: name.trim(), kind, origin, third, first }, () => setName(""));
        }}
      >
        <div className="row-line">
          <label htmlFor="axes-name">New axes</label>
          <input
            id="axes-name"
            className="form-control form-control-sm"
            placeholder="name"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <Form.Select
            size="sm"
            aria-label="Kind of axes"
            value={kind}
            onChange={(e) => setKind(e.target.value as Kind)}
          >
            <option value="cartesian">Cartesian</option>
            <option value="cylindrical">cylindrical</option>
            <option value="spherical">spherical</option>
          </Form.Select>
        </div>
        <div className="row-line actions">
          <button
            type="button"
            className={`ghost ${picking === "axes" && making?.by === "face" ? "on" : ""}`}
            aria-pressed={picking === "axes" && making?.by === "face"}
            title="A flat face gives its normal, one of a bore or pin the axis it lies round"
            onClick={() => pick("face")}
          >
            From a face
          </button>
          <button
            type="button"
            className={`ghost ${picking === "axes" && making?.by === "nodes" ? "on" : ""}`}
            aria-pressed={picking === "axes" && making?.by === "nodes"}
            title={
              kind === "cylindrical"
                ? "Three nodes round the bore"
                : "Three nodes: origin, third direction, first direction"
            }
            onClick={() => pick("nodes")}
          >
            From three nodes
          </button>
        </div>
        <div className="quiet small-line">or typed:</div>
        {["Origin", third[kind], "Point in the first direction"].map((label, i) => (
          <label className="row-line" key={i === 1 ? "third" : label}>
            {label}
            <input
              className={`form-control form-control-sm fig ${read[i] ? "" : "is-invalid"}`}
              placeholder={pointHint}
              value={points[i]}
              onChange={(e) => setPoints(points.map((p, k) => (k === i ? e.target.value : p)))}
            />
          </label>
        ))}
        <div className="row-line actions">
          <button type="submit" className="ghost" disabled={!ready}>
            Keep axes
          </button>
        </div>
      </form>
    </Section>
  );
}
