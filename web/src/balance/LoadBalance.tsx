import { useState } from "react";
import { useBalance } from "../api/balance";
import { useContents } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { type ArrowChoice, freshArrows, useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { Switch } from "../controls/Switch";
import { percent } from "../reading/format";
import { Heads, heldWord, scaleOf, small, Vector, Verdict } from "./tables";

export function LoadBalance() {
  const { result, set, arrows } = useBench("result", "set", "arrows");
  const contents = useContents(result);
  const [about, setAbout] = useState<string | null>(null);
  const [deformed, setDeformed] = useState(false);
  const answer = useBalance(about, deformed);
  const b = answer.data;
  const fields = contents.data?.fields ?? [];
  const arrowsOf = (kind: string) => fields.find((f) => f.kind === kind && f.rank === "vector" && !f.harmonic);
  const toggle = (name: string, split: boolean) =>
    set({
      arrows:
        arrows?.field === name
          ? null
          : { ...freshArrows(name), spacing: 0.015, full: true, at: "outside", split, by: "set" },
    });
  const pressed = (kind: string) => arrows !== null && arrows.field === arrowsOf(kind)?.name;
  if (answer.error) return <Refused error={answer.error} />;
  if (!b) return <div className="quiet">Adding up …</div>;
  const rows = [b.applied, b.reaction, b.residual];
  const forces = scaleOf(
    b.force_unit,
    rows.map((r) => r.force),
  );
  const moments = scaleOf(
    b.moment_unit,
    rows.map((r) => r.moment),
  );
  const held = scaleOf(
    b.force_unit,
    b.sets.map((s) => s.reaction.force),
  );
  const copy = () =>
    void copyTable(
      ["", "Fx", "Fy", "Fz", "Mx", "My", "Mz"],
      ["", b.force_unit, b.force_unit, b.force_unit, b.moment_unit, b.moment_unit, b.moment_unit],
      [
        ...(["applied", "reaction", "residual"] as const).map((k) => [k, ...b[k].force, ...b[k].moment]),
        ...b.sets.map((s) => [`reaction of ${s.name} (${s.held})`, ...s.reaction.force, ...s.reaction.moment]),
      ],
    );
  return (
    <>
      <Verdict verdict={b.verdict}>
        {b.force_share !== null && (
          <>
            {small(b.force_share)} of all forces is residual, {small(b.moment_share)} of their moments.
          </>
        )}
      </Verdict>
      <table className="figures" data-testid="forces">
        <Heads what="force" scale={forces} />
        <tbody>
          <Vector word="applied" v={b.applied.force} scale={forces} />
          <Vector word="reaction" v={b.reaction.force} scale={forces} />
          <Vector word="residual" v={b.residual.force} scale={forces} />
        </tbody>
        <Heads what="moment" scale={moments} />
        <tbody>
          <Vector word="applied" v={b.applied.moment} scale={moments} />
          <Vector word="reaction" v={b.reaction.moment} scale={moments} />
          <Vector word="residual" v={b.residual.moment} scale={moments} />
        </tbody>
      </table>
      <PointField label="About" value={b.about.map((v) => Number(v.toPrecision(6))).join(",")} onSet={setAbout} />
      <Switch id="deformed-moments" label="Moments on the deformed shape" on={deformed} onSet={setDeformed} />
      {b.notes.map((n) => (
        <div className="quiet small-line" key={n}>
          {n}
        </div>
      ))}
      {b.free_residual !== null && b.free_residual !== undefined && (
        <div className="quiet small-line">
          At free nodes {percent(b.free_residual, 2)} of the largest force is left.
        </div>
      )}
      <h3 className="sub">Sets</h3>
      <table className="figures" data-testid="set-forces">
        <Heads what="reaction" scale={held} />
        <tbody>
          {b.sets.map((s) => (
            <Vector
              key={s.name}
              word={
                <>
                  {s.name} <span className={`held held-${s.held}`}>{heldWord[s.held]}</span>
                </>
              }
              title={heldHint[s.held]}
              scale={held}
              v={s.reaction.force}
            />
          ))}
        </tbody>
      </table>
      {b.sets
        .filter((s) => s.held !== "held")
        .map((s) => (
          <div className="quiet small-line" key={s.name}>
            <b>{s.name}</b>: {heldHint[s.held]}
          </div>
        ))}
      <div className="row-line actions">
        {arrowsOf("reaction") && (
          <button
            type="button"
            className={pressed("reaction") ? "ghost on" : "ghost"}
            aria-pressed={pressed("reaction")}
            onClick={() => toggle(arrowsOf("reaction")!.name, true)}
          >
            Arrows of supports
          </button>
        )}
        {arrowsOf("force") && (
          <button
            type="button"
            className={pressed("force") ? "ghost on" : "ghost"}
            aria-pressed={pressed("force")}
            onClick={() => toggle(arrowsOf("force")!.name, false)}
          >
            Arrows of loads
          </button>
        )}
        {(pressed("reaction") || pressed("force")) && (
          <Choices<ArrowChoice["by"]>
            name="Arrows of"
            options={[
              { value: "set", label: "one a set", title: "The resultant of each set" },
              { value: "node", label: "one a node" },
            ]}
            value={arrows!.by}
            onChoose={(by) => set({ arrows: { ...arrows!, by } })}
          />
        )}
        <button type="button" className="ghost" onClick={copy}>
          Copy
        </button>
      </div>
    </>
  );
}

const heldHint: Record<string, string> = {
  held: "Every node of it has a reaction at some step.",
  partly: "only some of its nodes are held; the reaction is that of those.",
  free: "it is not held: a reaction here means nothing.",
  unknown: "the result does not say what is held.",
};
