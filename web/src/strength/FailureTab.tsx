import { useQuestion } from "../api/asking";
import { useContents } from "../api/queries";
import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { Switch } from "../controls/Switch";
import {
  exposureWords,
  type FailedPly,
  type Laminates,
  PLY_STRESS,
  plyName,
  useFailure,
  useHasPlies,
  useLaminates,
  useStack,
} from "../lines/strength";
import { figure, percent } from "../reading/format";
import { FromFile } from "./FromFile";
import { BringLaminates } from "./StackTab";

/** What fails first, and what the model shows of it. */
export function FailureTab() {
  const laminates = useLaminates();
  const plies = useHasPlies();
  if (laminates.error) return <Refused error={laminates.error} />;
  if (!laminates.data) return <div className="quiet">Reading the laminates …</div>;
  const known = laminates.data.more;
  if (!known.name)
    return (
      <div data-testid="no-laminates">
        <FromFile />
        <div className="quiet small-line">
          No laminates are stated of this result. A laminate file says its zones, their plies from the bottom to the
          top, and the materials with their strengths: JSON, or a table of materials and then one of plies.
        </div>
        <BringLaminates primary />
      </div>
    );
  if (!plies)
    return (
      <>
        <FromFile />
        <div className="caveat caveat-in">
          {known.name} is stated, but this result has nothing that the stress of plies follows from: a stress with
          layers, section forces and moments, or mid-plane strain and curvature, by element. Say in Intake what its
          arrays are.
        </div>
      </>
    );
  return (
    <>
      <Answer />
      <ByZone />
      <FromFile />
      <Criterion known={known} />
      <Shown known={known} />
      <Element />
      <Failed />
    </>
  );
}

function Answer() {
  const asked = useFailure();
  const { set, step } = useBench("set", "step");
  const contents = useContents(useBench((s) => s.result));
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return <div className="quiet">Every ply is held against the criterion …</div>;
  const { worst, first_failure: first, share_of_plies_failed, failed_count } = asked.data.more;
  if (!first || !worst) return <div className="caveat caveat-in">No ply has a value.</div>;
  const label = contents.data?.steps[step]?.label ?? "";
  return (
    <div className={asked.isPlaceholderData ? "former" : ""}>
      <div className={`verdict verdict-${asked.data.state}`} data-testid="first-failure">
        {first.state ? (
          <>
            {plyName(first)} of zone {first.zone}, {first.place}, {first.state}: {first.mode}. The change of temperature
            is enough.
          </>
        ) : first.fails ? (
          <>
            Fails first <b>{first.moment}</b>: {plyName(first)} of zone {first.zone}, {first.place}: {first.mode}.
          </>
        ) : (
          <>
            Nothing fails. The loads of step {first.step + 1} can grow to{" "}
            <b className="fig">{figure(first.load_factor, 4)}</b> times: {plyName(first)} of zone {first.zone},{" "}
            {first.place}: {first.mode}.
          </>
        )}
      </div>
      <div className="row-line actions">
        <GoTo place={first} step={first.step} />
      </div>
      <h3 className="sub">At {label}</h3>
      <div className="row-line ruled">
        <span>worst exposure</span>
        <b className="fig">{exposureWords(worst, 4)}</b>
      </div>
      <div className="row-line ruled">
        <span>reserve factor</span>
        <b className="fig">{figure(worst.reserve, 4)}</b>
      </div>
      <div className="row-line ruled">
        <span>failure index</span>
        <b className="fig">{figure(worst.index, 4)}</b>
      </div>
      <div className="row-line ruled">
        <span>where</span>
        <span>
          {plyName(worst)}, {worst.place}, {worst.zone}, element {worst.element}
        </span>
      </div>
      <div className="row-line ruled">
        <span>plies failed</span>
        <span data-testid="share-failed">
          {percent(share_of_plies_failed ?? 0, 2)}, in {failed_count} element{failed_count === 1 ? "" : "s"}
        </span>
      </div>
      {asked.data.caveats!.map((c) => (
        <div className="quiet small-line" key={c}>
          {c}
        </div>
      ))}
      {worst.element !== first.element && (
        <button type="button" className="link" onClick={() => set({ element: worst.element })}>
          Stack of element {worst.element}
        </button>
      )}
    </div>
  );
}

/** The first failure of each zone; a click shows the stack it happens in. */
function ByZone() {
  const { result, criterion, set } = useBench("result", "criterion", "set");
  const words = { result, criterion };
  const asked = useQuestion("first-by-zone", words);
  const zones = asked.data?.more.zones;
  if (asked.error || !zones || zones.length < 2) return null;
  return (
    <>
      <h3 className="sub">First failure by zone</h3>
      <table className="figures" data-testid="first-by-zone">
        <thead>
          <tr>
            <th className="word">zone</th>
            <th>load factor</th>
            <th className="word">ply, how</th>
          </tr>
        </thead>
        <tbody>
          {zones.map(({ zone, first }) => (
            <tr key={zone} className={first?.fails ? "row-fails" : ""}>
              <td className="word">{zone}</td>
              <td>
                {first ? (
                  <button
                    type="button"
                    className="link fig"
                    title={`${first.fails ? `Fails ${first.moment}` : "Does not fail: what the loads can be multiplied by"}; element ${first.element}. A click shows its stack.`}
                    onClick={() =>
                      set({ element: first.element, step: first.step, playing: false, strata: true, tab: "stack" })
                    }
                  >
                    {first.state ?? `${first.fails ? "" : "holds to "}${figure(first.load_factor, 4)}`}
                  </button>
                ) : (
                  <span className="quiet">no value</span>
                )}
              </td>
              <td className="word">{first ? `${first.sheet ?? `ply ${first.position}`}, ${first.mode}` : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <AnswerLeaves what="First failure by zone" kind="first-by-zone" words={words} name="first failure by zone" />
    </>
  );
}

/** Takes the view to the element of a ply, at a step, and shows its stack. */
function GoTo({ place, step }: { place: FailedPly; step: number }) {
  const { set } = useBench("set");
  return (
    <button
      type="button"
      className="ghost"
      onClick={() => set({ element: place.element, step, playing: false, strata: true, tab: "stack" })}
    >
      Show its stack, at step {step + 1}
    </button>
  );
}

function Criterion({ known }: { known: Laminates }) {
  const { criterion, reading, set, setReading } = useBench("criterion", "reading", "set", "setReading");
  const [name, bond] = [criterion.replace("+bond", ""), criterion.endsWith("+bond")];
  const chosen = known.criteria.find((c) => c.name === name);
  const choose = (next: string) => {
    set({ criterion: next });
    if (reading?.field === PLY_STRESS) setReading({ criterion: next });
  };
  return (
    <>
      <h3 className="sub">Criterion</h3>
      <SelectField
        label="Criterion"
        name="Criterion"
        value={name}
        options={known.criteria.map((c) => ({
          value: c.name,
          label: c.lacking.length ? `${c.label} (lacks ${c.lacking.join(", ")})` : c.label,
        }))}
        onSet={(v) => choose(v + (bond ? "+bond" : ""))}
      />
      <Switch
        id="bond"
        label="With the bond lines between the plies"
        on={bond}
        disabled={!known.shear || (chosen?.bond_lacking.length ?? 0) > (chosen?.lacking.length ?? 0)}
        onSet={(on) => choose(name + (on ? "+bond" : ""))}
      />
      {!known.shear && (
        <div className="quiet small-line">The result has no transverse force: nothing is known between the plies.</div>
      )}
      {chosen?.assumed.map((a) => (
        <div className="quiet small-line" key={a}>
          Taken as usual: {a}.
        </div>
      ))}
    </>
  );
}

const measures = [
  { value: "exposure", label: "exposure" },
  { value: "index", label: "failure index" },
  { value: "reserve", label: "reserve factor" },
  { value: "mode", label: "mode of failure" },
  { value: "first-ply", label: "ply that fails first" },
  { value: "11", label: "stress 11" },
  { value: "22", label: "stress 22" },
  { value: "12", label: "stress 12" },
];

/** Which ply of which kind of number the model shows. */
function Shown({ known }: { known: Laminates }) {
  const { reading, criterion, set, setReading } = useBench("reading", "criterion", "set", "setReading");
  const on = reading?.field === PLY_STRESS;
  const layer = on && reading.layer ? reading.layer : "worst";
  const places = [...known.places, "worst"];
  const place = places.find((p) => layer.endsWith(`:${p}`)) ?? "worst";
  const ply = layer === "worst" ? "worst" : layer.replace(new RegExp(`:(${places.join("|")})$`), "");
  const show = (change: { measure?: string; layer?: string }) => {
    if (on) setReading(change);
    else set({ reading: { ...freshReading(PLY_STRESS, "exposure"), criterion, layer: "worst", ...change } });
  };
  const layered = (nextPly: string, nextPlace: string) =>
    nextPlace === "worst" && nextPly === "worst" ? "worst" : `${nextPly}:${nextPlace}`;
  const depth = Math.max(...known.zones.map((z) => z.plies.length));
  return (
    <>
      <h3 className="sub">On the model</h3>
      {!on && (
        <button type="button" className="btn btn-primary btn-sm" onClick={() => show({})}>
          Show exposure on the model
        </button>
      )}
      {on && (
        <>
          <SelectField
            label="Shown"
            name="Shown on the model"
            value={reading.measure || "exposure"}
            options={measures}
            onSet={(measure) => show({ measure })}
          />
          <SelectField
            label="Ply"
            name="Ply"
            value={ply}
            options={[
              { value: "worst", label: "worst of all plies" },
              ...known.sheets.map((s) => ({ value: `sheet:${s}`, label: `sheet ${s}` })),
              ...Array.from({ length: depth }, (_, i) => ({
                value: String(i + 1),
                label: `ply ${i + 1} from the bottom`,
              })),
            ]}
            onSet={(v) => show({ layer: layered(v, place) })}
          />
          <SelectField
            label="Place in it"
            name="Place in the ply"
            value={place}
            options={places.map((p) => ({ value: p, label: p }))}
            onSet={(v) => show({ layer: layered(ply, v) })}
          />
        </>
      )}
    </>
  );
}

/** The element whose stack stands beside the key, and what its plies say. */
function Element() {
  const { element, picking, set } = useBench("element", "picking", "set");
  const asked = useStack();
  return (
    <>
      <h3 className="sub">Stack in view</h3>
      <div className="row-line actions">
        <button
          type="button"
          className={picking === "stack" ? "ghost on" : "ghost"}
          aria-pressed={picking === "stack"}
          onClick={() => set({ picking: picking === "stack" ? "flag" : "stack", picks: [] })}
        >
          Pick an element
        </button>
        {element !== null && (
          <button type="button" className="link" onClick={() => set({ element: null })}>
            Back to the worst
          </button>
        )}
      </div>
      <Refused error={asked.error} />
      {asked.data?.more.remarks.map((r) => (
        <div className="small-line" key={r} data-testid="stack-remark">
          {r}
        </div>
      ))}
    </>
  );
}

function Failed() {
  const { result, step, criterion, element, set } = useBench("result", "step", "criterion", "element", "set");
  const asked = useFailure();
  if (!asked.data) return null;
  const { failed, failed_count } = asked.data.more;
  if (!failed_count) return null;
  return (
    <>
      <h3 className="sub">
        {failed_count} failed element{failed_count === 1 ? "" : "s"}
      </h3>
      <table className="figures" data-testid="failed">
        <tbody>
          {failed.slice(0, 6).map((f) => (
            <tr key={f.element} className={f.element === element ? "chosen-row" : ""}>
              <td>
                <button type="button" className="link" onClick={() => set({ element: f.element })}>
                  {f.element}
                </button>
              </td>
              <td>{f.zone}</td>
              <td>{f.sheet ?? f.position}</td>
              <td className="word">{f.mode}</td>
              <td>{exposureWords(f, 3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {failed_count > 6 && <div className="quiet small-line">and {failed_count - 6} more</div>}
      <AnswerLeaves what="Failed elements" kind="failed" words={{ result, step, criterion }} name="failed elements" />
    </>
  );
}
