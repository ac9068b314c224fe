import { Plus } from "lucide-react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents, type Pairing, type PairingSpec } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useContents, useMatch, usePairings, useTests } from "../api/queries";
import { belongs } from "../api/records";
import { useBench } from "../bench/store";
import { Section } from "../controls/Section";
import { Stroke } from "../controls/Stroke";
import { modelColour, testColour } from "../plots/curves";
import { Agreement } from "./Agreement";
import { CurveOfOthers } from "./CurveOfOthers";
import { Front } from "./Front";
import { NamedCurves } from "./NamedCurves";
import { freshPairing, overTime, PairingForm, stressStrain } from "./PairingForm";
import { Record } from "./Record";

/** Curves out of the model, and a test record held against them. */
export function TraceDrawer() {
  const { result, pairing, test, set } = useBench("result", "pairing", "test", "set");
  const contents = useContents(result);
  const pairings = usePairings(result);
  const tests = useTests();
  const curve = pairings.data?.find((p) => p.id === pairing);
  const record = tests.data?.find((t) => t.id === test);
  const match = useMatch(curve && !curve.error ? curve.id : null, record && !record.error ? record.id : null);
  // Which record belongs is known once curves and records are.
  const settled = tests.data && (curve || pairings.data?.length === 0);
  const none = settled ? !tests.data.some((t) => belongs(t, pairing)) : false;
  const make = useChange(post);
  if (!contents.data) return <h3>Trace</h3>;
  const fresh = freshPairing(contents.data);
  return (
    <div data-testid="trace">
      <h3>{record ? "Against the test" : "Load and displacement"}</h3>
      {(pairings.data?.length ?? 0) > 1 && (
        <Form.Select
          size="sm"
          aria-label="Curve"
          value={pairing ?? ""}
          onChange={(e) => set({ pairing: Number(e.target.value) })}
        >
          {pairings.data!.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Form.Select>
      )}
      {curve?.error && (
        <div className="verdict verdict-bad" role="alert" data-testid="broken-curve">
          <b>{curve.name} cannot be drawn.</b> {curve.error} Say anew below what it is made of, undo, or remove it.
        </div>
      )}
      {curve && !curve.error && (
        <>
          <PickedCycles />
          <div className="row-line legend" title={curve.y.sentence}>
            <span>
              <Stroke colour={modelColour} />
              {curve.y.label}
            </span>
            <span className="fig">{curve.y.unit}</span>
          </div>
          {record && !record.error && (
            <div className="row-line legend">
              <span>
                <Stroke colour={testColour} />
                {record.name}, {record.use.y.column}
              </span>
              <span className="fig">{record.y_unit ?? "unit not stated"}</span>
            </div>
          )}
          {curve.caveats.map((c) => (
            <div className="caveat caveat-in" key={c}>
              {c}
            </div>
          ))}
        </>
      )}
      {match.error && (
        <div className="verdict verdict-bad" role="alert">
          {match.error.message}
        </div>
      )}
      {match.data && curve && record && <Agreement match={match.data} record={record} />}
      {!curve && (
        <button
          type="button"
          className="btn btn-primary"
          disabled={!fresh || make.isPending}
          onClick={() =>
            fresh && make.mutate(fresh, { onSuccess: (made) => set({ pairing: made.id, strata: true, tab: "loop" }) })
          }
        >
          <Plus size={14} /> Make load–displacement curve
        </button>
      )}
      {!curve && !fresh && (
        <div className="quiet small-line">
          Such a curve takes displacements and reactions at nodes, and a set of nodes: this result lacks one of them. A
          reading at a flag over the steps is a curve too: plant a flag, then its <b>Over the steps</b>. Other curves
          are made by name below.
        </div>
      )}
      {curve && (
        <Section
          name={curve.error ? "broken curve" : "curve"}
          className="section"
          open={Boolean(curve.error)}
          summary="Curve: what against what"
        >
          <PairingForm key={curve.id} pairing={curve} contents={contents.data} />
          <NewCurve
            curve={curve}
            contents={contents.data}
            onMake={(spec) => make.mutate(spec, { onSuccess: (made) => set({ pairing: made.id }) })}
          />
        </Section>
      )}
      {curve && !curve.error && <CurveOfOthers />}
      <NamedCurves />
      <Front />
      <Record record={record} open={record ? record.error != null : none} />
    </div>
  );
}

const post = (spec: PairingSpec) => ask(api.POST("/api/pairings", { body: { first: 0, ...spec } }));

function NewCurve({
  curve,
  contents,
  onMake,
}: {
  curve: Pairing;
  contents: Contents;
  onMake: (spec: PairingSpec) => void;
}) {
  const { set } = useBench("set");
  const remove = useChange(() => removeKept("pairing", curve.id));
  const fresh = freshPairing(contents);
  const response = stressStrain(contents);
  return (
    <div className="row-line actions wrap-actions">
      <button
        type="button"
        className="link"
        onClick={() => onMake({ result: curve.result, name: `${curve.name} copy`, x: curve.x_spec, y: curve.y_spec })}
      >
        New curve from this one
      </button>
      <button type="button" className="link" onClick={() => onMake(overTime(curve))}>
        Its driver over the steps
      </button>
      {fresh && (
        <button type="button" className="link" onClick={() => onMake(fresh)}>
          Load–displacement
        </button>
      )}
      {response && (
        <button type="button" className="link" onClick={() => onMake(response)}>
          Stress–strain of an element
        </button>
      )}
      <button
        type="button"
        className="link"
        onClick={() => remove.mutate(undefined, { onSuccess: () => set({ pairing: null }) })}
      >
        Remove
      </button>
    </div>
  );
}

/** That not all of the curve is looked at, beside what says how well it agrees. */
function PickedCycles() {
  const { cycles, set } = useBench("cycles", "set");
  if (!cycles.length) return null;
  return (
    <div className="caveat caveat-in" role="status" data-testid="picked-cycles">
      {cycles.length === 1 ? `Cycle ${cycles[0]} alone.` : `Cycles ${cycles.join(", ")} alone.`}{" "}
      <button type="button" className="link" onClick={() => set({ cycles: [] })}>
        All cycles
      </button>
    </div>
  );
}
