import type { Schemas } from "../api/client";
import { useBench } from "../bench/store";
import { Stroke } from "../controls/Stroke";
import { columnOf, type DrawnProfile, useProfiles } from "../lines/profiles";
import { useProfilesOf } from "../lines/profilesOf";
import { figure } from "../reading/format";
import { strokes } from "../theme/strokes";
import { type Line, Plot } from "./Plot";

/** The profiles over the distance, like a longitudinal section: the parts passed through stand under it. */
export function ProfilePlot() {
  const { set } = useBench("set");
  const profiles = useProfiles(true);
  const others = useProfilesOf().data?.more.profiles;
  const good = profiles.filter((p) => p.answer);
  if (!good.length) {
    if (profiles.some((p) => p.fetching)) return <div className="strata-empty quiet">Reading along the line …</div>;
    const error = profiles.find((p) => p.error)?.error;
    return (
      <div className="strata-empty quiet">
        {error ? error.message : "No line is chosen: tick one or make one in the Path bay (key 4)."}
      </div>
    );
  }
  return (
    <div className="plot-column" data-testid="profile-plot">
      <Plot
        {...profileFigure(good, others)}
        onHover={(at) => set({ chainage: at })}
        label={firstOf(good).answer!.sentence}
      />
    </div>
  );
}

/** The profile that figures and tables are of. */
export const firstOf = (profiles: DrawnProfile[]): DrawnProfile => profiles.find((p) => !p.held) ?? profiles[0]!;

/** What is drawn of profiles that have been answered, also in a picture that is kept. */
export function profileFigure(good: DrawnProfile[], others: Schemas["ProfileOf"][] = []) {
  const first = firstOf(good);
  const answer = first.answer!;
  const more = answer.more;
  const [x, y] = answer.columns!;
  const unit = answer.unit ?? "";
  const lines: Line[] = good.map((p) => {
    const other = p.answer!.unit !== answer.unit;
    return {
      name: p.label,
      x: columnOf(p.answer, 0),
      y: columnOf(p.answer, 1),
      colour: p.colour,
      width: p.held ? 1.2 : 1.8,
      dash: p.dashed ? "dash" : undefined,
      second: other,
    };
  });
  lines.push(
    ...others.flatMap((p, i) =>
      p.error
        ? []
        : [{ name: p.result, x: p.x, y: p.y, colour: strokes[(i + 1) % strokes.length]!, width: 1.2, dash: "dash" }],
    ),
  );
  const other = good.find((p) => p.answer!.unit !== answer.unit);
  if (more.formula)
    lines.push({ name: "formula", x: x!.values as number[], y: more.formula, colour: "#6B4E71", dash: "dot" });
  if (more.test)
    lines.push({
      name: more.test.name,
      x: more.test.x,
      y: more.test.y,
      colour: "#23282D",
      marks: more.test.x.map(() => more.test!.name),
    });
  const named = (text: string, of: string) => (of ? `${text}, ${of}` : text);
  return {
    lines,
    xTitle: named("distance", x!.unit ?? ""),
    yTitle: named(y!.name, unit),
    secondTitle: other ? named(other.answer!.columns![1]!.name, other.answer!.unit ?? "") : undefined,
    stretches:
      good.length === 1 && (more.stretches.length > 1 || more.stretches[0]?.part === null) ? more.stretches : undefined,
  };
}

/** What each line is. */
export function ProfileLegend() {
  const profiles = useProfiles(true);
  const others = useProfilesOf().data?.more.profiles ?? [];
  const { held, set } = useBench("held", "set");
  let n = -1;
  return (
    <div className="legend-list" data-testid="profile-legend">
      {profiles.map((p) => {
        if (p.held) n++;
        const position = n;
        return (
          <div key={`${p.id} ${p.label} ${p.held ? position : ""}`} title={p.answer?.sentence}>
            <Stroke colour={p.colour} dashed={p.dashed} /> {p.label} <span className="fig quiet">{said(p)}</span>
            {p.held && (
              <button
                type="button"
                className="link"
                onClick={() => set({ held: held.filter((_, i) => i !== position) })}
              >
                let go
              </button>
            )}
          </div>
        );
      })}
      {others.map((p, i) => (
        <div key={`of ${p.id}`} title={p.verdict}>
          <Stroke colour={strokes[(i + 1) % strokes.length]!} dashed /> {p.result}{" "}
          <span className="fig quiet">{p.error || p.verdict}</span>
        </div>
      ))}
    </div>
  );
}

const said = (p: DrawnProfile) => {
  if (p.error) return p.error.message;
  if (!p.answer) return "…";
  const { peaks } = p.answer.more;
  return peaks ? `${figure(peaks.min.value)} to ${figure(peaks.max.value)} ${p.answer.unit}` : "no value";
};
