import { useState } from "react";
import { type Cut, useCut, useFaces, useJoint, useMembers } from "../api/balance";
import { useContents } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { nothingPicked, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Choices } from "../controls/Choices";
import { FoldField } from "../controls/FoldField";
import { NumberField } from "../controls/NumberField";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { useTyped } from "../controls/typed";
import { figure, parse, percent } from "../reading/format";
import { Heads, scaleOf, small, Vector, Verdict } from "./tables";

type Where = "plane" | "faces" | "members" | "joint";

/** What is inside: the force through a cut or faces, the members of a frame, the bars at a joint. */
export function Inside() {
  const { result, set } = useBench("result", "set");
  const contents = useContents(result);
  const [where, setWhere] = useState<Where | null>(null);
  if (!contents.data) return null;
  const kinds = Object.keys(contents.data.cells);
  const lines = kinds.some((k) => k.startsWith("line"));
  const solids = kinds.some((k) => /^(hex|tet|wedge|pyramid)/.test(k));
  const here = where ?? (lines && !solids ? "members" : "plane");
  return (
    <>
      <Choices<Where>
        name="What is added up"
        options={[
          { value: "plane", label: "a plane", disabled: !solids, title: solids ? undefined : "Of solid elements" },
          { value: "faces", label: "faces", disabled: !solids, title: solids ? undefined : "Of solid elements" },
          { value: "members", label: "members", disabled: !lines, title: lines ? undefined : "Of bars and beams" },
          { value: "joint", label: "a joint", disabled: !lines, title: lines ? undefined : "Of bars and beams" },
        ]}
        value={here}
        onChoose={(to) => {
          setWhere(to);
          set({ picking: to === "faces" ? "area" : "flag", measuring: nothingPicked });
        }}
      />
      <div className="under-choice" />
      {here === "plane" && <ThroughPlane />}
      {here === "faces" && <OverFaces />}
      {here === "members" && <Members />}
      {here === "joint" && <JointBars />}
    </>
  );
}

function ThroughPlane() {
  const [cut, setCut] = useState<Cut>({ origin: "0,0,0", normal: "1,0,0" });
  const [asked, setAsked] = useState(false);
  const answer = useCut(asked ? cut : null);
  const c = answer.error ? undefined : answer.data;
  const sides = c ? [c.through, c.beyond].filter((r) => r != null) : [];
  const forces = scaleOf(
    c?.force_unit ?? "",
    sides.map((r) => r.force),
  );
  const moments = scaleOf(
    c?.moment_unit ?? "",
    sides.map((r) => r.moment),
  );
  const change = (to: Partial<Cut>) => {
    setCut({ ...cut, ...to });
    setAsked(true);
  };
  return (
    <>
      <h3>Through a plane</h3>
      <PointField label="Point of the plane" value={cut.origin} onSet={(origin) => change({ origin })} />
      <PointField label="Its normal" value={cut.normal} onSet={(normal) => change({ normal })} />
      {!asked && (
        <button type="button" className="ghost" onClick={() => setAsked(true)}>
          Add up
        </button>
      )}
      <Refused error={answer.error} />
      {c && (
        <div data-testid="cut">
          <table className="figures">
            <Heads what="force" scale={forces} />
            <tbody>
              <Vector word="from stress" v={c.through.force} scale={forces} />
              {c.beyond && <Vector word="acts beyond" v={c.beyond.force} scale={forces} />}
            </tbody>
            <Heads what="moment" scale={moments} />
            <tbody>
              <Vector word="from stress" v={c.through.moment} scale={moments} />
              {c.beyond && <Vector word="acts beyond" v={c.beyond.moment} scale={moments} />}
            </tbody>
          </table>
          {c.verdict && <Verdict verdict={c.verdict}>the two differ by {small(c.residual_share)}.</Verdict>}
          <div className="quiet small-line">
            Area {figure(c.area)} {c.area_unit}; moments about its middle (
            {c.centre.map((v) => figure(v, 4)).join(", ")}). What lies on the normal's side pulls with this. {c.note}
          </div>
        </div>
      )}
    </>
  );
}

function OverFaces() {
  const { measuring, picking, set } = useBench("measuring", "picking", "set");
  const [pressure, setPressure] = useTyped("pressure", 0);
  const answer = useFaces(measuring.face, measuring.fold, pressure || null);
  const f = answer.error ? undefined : answer.data;
  const sides = f ? [f.through, f.acting, f.pushed].filter((r) => r != null) : [];
  const forces = scaleOf(
    f?.force_unit ?? "",
    sides.map((r) => r.force),
  );
  const moments = scaleOf(
    f?.moment_unit ?? "",
    sides.map((r) => r.moment),
  );
  const rows = (which: "force" | "moment", scale: typeof forces) =>
    f && (
      <tbody>
        {f.through && <Vector word="from stress" v={f.through[which]} scale={scale} />}
        {f.acting && <Vector word="acts there" v={f.acting[which]} scale={scale} />}
        {f.pushed && <Vector word="pressure" v={f.pushed[which]} scale={scale} />}
      </tbody>
    );
  return (
    <>
      <h3>Through faces</h3>
      <div className="quiet small-line">
        {picking === "area" && measuring.face !== null
          ? "What acts on the body through the faces picked; click others to change."
          : "Click a face on the model: those that join it smoothly come with it."}
      </div>
      {picking !== "area" && (
        <button type="button" className="ghost" onClick={() => set({ picking: "area" })}>
          Pick a face
        </button>
      )}
      <FoldField />
      <NumberField label="Pressure on them" unit={f?.stress_unit ?? ""} value={pressure} onSet={setPressure} />
      <Refused error={answer.error} />
      {f && (
        <div data-testid="faces">
          {sides.length > 0 && (
            <table className="figures">
              <Heads what="force" scale={forces} />
              {rows("force", forces)}
              <Heads what="moment" scale={moments} />
              {rows("moment", moments)}
            </table>
          )}
          {f.verdict && (
            <Verdict verdict={f.verdict}>
              stress and what acts there differ by {small(f.residual_share)} of what the faces carry.
            </Verdict>
          )}
          <div className="quiet small-line">
            {f.count} faces, {figure(f.area)} {f.area_unit}; seen along x, y, z{" "}
            {f.projected.map((v) => figure(v, 4)).join(", ")} {f.area_unit}. Moments about their middle.{" "}
            {f.inner && "What acts on their edge, which other faces share, is not counted."} {f.note}
          </div>
        </div>
      )}
    </>
  );
}

/** Every member's force beside what its joints' displacements, modulus and area make of it. */
function Members() {
  const { result, step, member, set } = useBench("result", "step", "member", "set");
  const answer = useMembers();
  const t = answer.error ? undefined : answer.data;
  const rows = [...(t?.members ?? [])].sort((a, b) => Math.abs(b.force ?? 0) - Math.abs(a.force ?? 0));
  const most = Math.max(...rows.map((m) => Math.abs(m.force ?? 0)), 0);
  const factor = t?.force_unit === "N" && most >= 1e4 ? 1e-3 : 1;
  const unit = t ? (factor === 1 ? t.force_unit : `k${t.force_unit}`) : "";
  const chosen = rows.find((m) => m.number === member);
  const value = (v: number | null) => (v === null ? "" : figure(v * factor, 3));
  return (
    <>
      <h3>Members, joint to joint</h3>
      <Refused error={answer.error} />
      {t && (
        <>
          <div className={`verdict verdict-${t.state}`} data-testid="verdict">
            {t.verdict}
          </div>
          <div className="scroll-table">
            <table className="figures" data-testid="members">
              <thead>
                <tr>
                  <th>member</th>
                  <th>force {unit}</th>
                  <th title="From joint displacements, modulus and area alone">by hand</th>
                  <th>off</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((m) => (
                  <tr
                    key={m.number}
                    className={`picked-row ${m.number === member ? "chosen" : ""}`}
                    onClick={() => set({ member: m.number, strata: true, tab: "member" })}
                  >
                    <td title={`${m.part}, node ${m.joints.join(" to ")}`}>
                      <button
                        type="button"
                        className="link"
                        onClick={() => set({ member: m.number, strata: true, tab: "member" })}
                      >
                        {m.number}
                      </button>{" "}
                      {m.part}
                    </td>
                    <td>{value(m.force)}</td>
                    <td>{value(m.hand_force)}</td>
                    <td className={m.elastic ? "" : "no"}>{!m.elastic ? "nominal" : percent(m.off, 2)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {chosen && (
            <table className="figures" data-testid="member">
              <tbody>
                <Row word={`Member ${chosen.number}, length`} value={chosen.length} unit={t.length_unit} />
                <Row word="Extension of its joints" value={chosen.extension} unit={t.length_unit} />
                <Row word="Strain" value={chosen.strain} unit="" />
                <Row word="Modulus times strain" value={chosen.stress} unit={t.stress_unit} />
                <Row
                  word={chosen.elastic ? "Force over area" : "Force over area (nominal)"}
                  value={chosen.nominal}
                  unit={t.stress_unit}
                />
                {chosen.yielded !== null && (
                  <Row word="Yielded, most of a section" value={100 * chosen.yielded} unit="%" />
                )}
              </tbody>
            </table>
          )}
          {t.missing && <div className="caveat caveat-in">{t.missing}</div>}
          <div className="row-line actions">
            <AnswerLeaves what="Members" kind="members" words={{ result, step }} name="members" />
            <button
              type="button"
              className="link"
              onClick={() =>
                void copyTable(
                  ["member", "part", "force", "extension", "strain", "stress", "hand force", "force over area"],
                  ["", "", t.force_unit, t.length_unit, "", t.stress_unit, t.force_unit, t.stress_unit],
                  rows.map((m) => [
                    m.number,
                    m.part,
                    m.force,
                    m.extension,
                    m.strain,
                    m.stress,
                    m.hand_force,
                    m.nominal,
                  ]),
                )
              }
            >
              Copy
            </button>
          </div>
          <div className="quiet small-line">Axial force: {t.source}. By hand: linear, small displacements.</div>
        </>
      )}
    </>
  );
}

const Row = ({ word, value, unit }: { word: string; value: number | null; unit: string }) => (
  <tr>
    <td>{word}</td>
    <td>
      {figure(value)} {unit}
    </td>
  </tr>
);

function JointBars() {
  const [node, setNode] = useTyped("joint", "");
  const [at, setAt] = useState<number | null>(null);
  const bars = useJoint(at);
  const j = bars.error ? undefined : bars.data;
  const pulls = scaleOf(j?.force_unit ?? "", j ? [...j.bars.map((b) => b.pull), j.applied, j.reaction] : []);
  return (
    <>
      <h3>Bars at a joint</h3>
      <form
        className="row-line"
        onSubmit={(e) => {
          e.preventDefault();
          const n = parse(node);
          if (n !== null) setAt(Math.round(n));
        }}
      >
        <label htmlFor="joint-node">Node</label>
        <input
          id="joint-node"
          className="form-control form-control-sm fig"
          value={node}
          onChange={(e) => setNode(e.target.value)}
        />
        <button type="submit" className="ghost" disabled={parse(node) === null}>
          Add up
        </button>
      </form>
      <Refused error={bars.error} />
      {j && (
        <table className="figures" data-testid="joint">
          <Heads what="on the node" scale={pulls} />
          <tbody>
            {j.bars.map((b) => (
              <Vector
                key={b.element}
                word={`el. ${b.element}, ${b.axial >= 0 ? "pulls" : "pushes"}`}
                v={b.pull}
                scale={pulls}
              />
            ))}
            <Vector word="load" v={j.applied} scale={pulls} />
            <Vector word="reaction" v={j.reaction} scale={pulls} />
            <Vector word="residual" v={j.residual} scale={pulls} />
          </tbody>
        </table>
      )}
      {j && <div className="quiet small-line">Axial force: {j.source}. The residual is carried in bending.</div>}
    </>
  );
}
