import { type Answer, tableOf, useQuestion, type Words } from "../api/asking";
import { useFlags } from "../api/marks";
import { useContents } from "../api/queries";
import { save } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { told } from "../bench/readingChoice";
import { type FlagChoice, useBench } from "../bench/store";
import { Missing } from "../controls/Missing";
import { SelectField } from "../controls/SelectField";
import { Stroke } from "../controls/Stroke";
import { figure } from "../reading/format";
import { strokes as curveColours } from "../theme/strokes";
import type { Line } from "./figure";
import { Plot } from "./Plot";

const takes: { value: FlagChoice["take"]; label: string }[] = [
  { value: "all", label: "every element" },
  { value: "band", label: "lowest and highest" },
  { value: "max", label: "largest" },
  { value: "mean", label: "mean" },
  { value: "min", label: "smallest" },
];

function useWords(): Words<"flag-steps"> | null {
  const { result, reading, flagSteps } = useBench("result", "reading", "flagSteps");
  if (!reading) return null;
  const flags = flagSteps.only === null ? null : [flagSteps.only];
  return { result, ...told(reading), take: flagSteps.take, ...(flags ? { flags } : {}) };
}

function useFlagSteps() {
  const words = useWords();
  const flags = useFlags(useBench((s) => s.result));
  return useQuestion("flag-steps", flags.data?.length ? words : null);
}

/** The columns of the answer behind its first, which is the steps. */
const linesOf = (answer: Answer): Line[] => {
  const [steps, ...columns] = answer.columns ?? [];
  return columns.map((c, i) => ({
    name: c.name,
    x: steps!.values as (number | null)[],
    y: c.values as (number | null)[],
    colour: curveColours[i % curveColours.length]!,
    ...(i >= curveColours.length ? { dash: "dash" } : {}),
    steps: true,
  }));
};

/** What the flags say of the reading in view at every step. */
export function FlagStepsPlot() {
  const { result, step, set } = useBench("result", "step", "set");
  const flags = useFlags(result);
  const asked = useFlagSteps();
  const answer = asked.data;
  if (!flags.data?.length)
    return (
      <div className="strata-empty quiet">
        <Missing asked={flags} reading="Reading the flags …" empty="No flag yet: click the model to plant one." />
      </div>
    );
  if (!answer)
    return (
      <div className="strata-empty quiet">
        <Missing asked={asked} reading="Following the flags through the steps …" empty="" />
      </div>
    );
  const lines = linesOf(answer);
  const [steps] = answer.columns ?? [];
  const title = (name: string, unit: string | null | undefined) => (unit ? `${name}, ${unit}` : name);
  return (
    <div className="plot-column" data-testid="flag-steps-plot">
      <Plot
        lines={lines}
        xTitle={title(steps!.name, steps!.unit)}
        yTitle={title("at the flags", answer.unit)}
        here={{ x: (steps!.values[step] as number) ?? null, y: lines[0]?.y[step] ?? null }}
        onStep={(s) => set({ step: s, playing: false })}
        label={answer.sentence}
      />
    </div>
  );
}

/** Which flags, what of the elements that meet there, each line's value at the step in view, and the table as a file. */
export function FlagStepsLegend() {
  const { result, step, flagSteps, set } = useBench("result", "step", "flagSteps", "set");
  const contents = useContents(result);
  const flags = useFlags(result);
  const words = useWords();
  const answer = useFlagSteps().data;
  if (!flags.data?.length) return null;
  const change = (to: Partial<FlagChoice>) => set({ flagSteps: { ...flagSteps, ...to } });
  const download = async (form: "csv" | "xlsx") => {
    try {
      const file = URL.createObjectURL(await tableOf("flag-steps", words!, form));
      save(file, `${contents.data?.name ?? "result"} flags over the steps`, form);
      window.setTimeout(() => URL.revokeObjectURL(file), 10_000);
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div className="legend-list" data-testid="flag-steps">
      <SelectField
        label="Flags"
        name="Which flags"
        value={String(flagSteps.only ?? "")}
        options={[
          { value: "", label: "all" },
          ...flags.data.map((f, i) => ({ value: String(f.id), label: f.name || `flag ${i + 1}` })),
        ]}
        onSet={(v) => change({ only: v ? Number(v) : null })}
      />
      <SelectField
        label="Of what meets there"
        name="What of the elements that meet"
        value={flagSteps.take}
        options={takes}
        onSet={(v) => change({ take: v as FlagChoice["take"] })}
      />
      <div className="row-line actions">
        {(["csv", "xlsx"] as const).map((form) => (
          <button
            type="button"
            className="ghost"
            key={form}
            aria-label={`Flags over the steps ${form.toUpperCase()}`}
            disabled={!answer}
            onClick={() => void download(form)}
          >
            {form.toUpperCase()}
          </button>
        ))}
      </div>
      {answer &&
        linesOf(answer).map((l) => (
          <div key={l.name}>
            <Stroke colour={l.colour} dashed={l.dash !== undefined} /> {l.name}{" "}
            <span className="fig quiet">
              {figure(l.y[step])} {answer.unit}
            </span>
          </div>
        ))}
    </div>
  );
}
