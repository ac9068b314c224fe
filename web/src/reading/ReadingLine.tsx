import { useEffect } from "react";
import { useContents, useLine, useReview, useValues } from "../api/queries";
import { type Bay, drawerTab, type Making, type ReadingChoice, useBench, usePane } from "../bench/store";
import { Chooser } from "./Chooser";

/** Readings of this result looked at before, by their sentences; one click brings one back. */
function Recent() {
  const { result, reading, recent, set } = useBench("result", "reading", "recent", "set");
  const pane = usePane();
  const values = useValues();
  const sentence = values.isPlaceholderData ? undefined : values.data?.head.sentence;
  useEffect(() => {
    const state = pane.getState();
    if (!sentence || !state.reading || state.result === null) return;
    const alone = sentence.replace(/, at [^,]*\(step [^)]*\)/, "");
    const others = state.recent.filter((r) => r.result === state.result && r.sentence !== alone);
    set({ recent: [{ result: state.result, reading: state.reading, sentence: alone }, ...others].slice(0, 12) });
  }, [sentence, set, pane]);
  const here = recent.filter((r) => r.result === result);
  if (here.length < 2 || !reading) return null;
  return (
    <Chooser
      label="recent"
      title="Recent readings"
      className="word-plain"
      choices={here.map((r) => ({ value: r.sentence, label: r.sentence }))}
      value={here.find((r) => r.reading === reading)?.sentence ?? ""}
      onChoose={(s) => {
        const found = here.find((r) => r.sentence === s);
        if (found) set({ reading: found.reading });
      }}
    />
  );
}

/** Words that keys change too. */
const keysOf: Record<string, string> = { step: "← →, Home, End", of: "J, E", measure: "J its jump, E its error" };

/** What one looks at, as a sentence; every word group opens its choices in place. The words are the service's. */
export function ReadingLine() {
  const { result, reading, step, setReading, set } = useBench("result", "reading", "step", "setReading", "set");
  const pane = usePane();
  const contents = useContents(result);
  const review = useReview();
  const line = useLine();
  if (line.isError && !line.data)
    return (
      <div className="reading-line quiet" role="alert">
        {line.error.message}
      </div>
    );
  if (!contents.data || !reading || !line.data)
    return (
      <div className="reading-line quiet">
        {result !== null
          ? "Reading …"
          : review.data
            ? "Nothing to read yet."
            : (review.error?.message ?? "Reading the review …")}
      </div>
    );
  const { steps, rail } = contents.data;
  // The step moves while the rest of the line is on its way.
  const label = `${steps[step]?.label ?? ""} (${step + 1}/${steps.length})`;
  const moments = () =>
    steps.map((s) => ({
      value: String(s.index),
      label: s.label,
      note: rail.marks
        .filter((m) => m.step === s.index)
        .map((m) => m.label)
        .join(", "),
    }));
  return (
    <div className="reading-line" data-testid="reading-line">
      {line.data.words.map((w) => (
        <span key={w.name}>
          {w.before}
          <Chooser
            label={w.name === "step" ? label : w.label}
            title={w.title}
            className={w.plain ? "word-plain" : ""}
            marked={w.marked}
            keys={keysOf[w.name]}
            choices={w.name === "step" ? moments() : w.choices}
            value={w.name === "step" ? String(step) : w.value}
            onChoose={(value) => {
              const chosen = w.choices.find((c) => c.value === value);
              if (w.name === "step") set({ step: Number(value), playing: false });
              else if (chosen?.make)
                set({ picking: "axes", picks: [], making: { want: chosen.make as Making["want"], by: "face" } });
              else if (chosen?.leads === "path") {
                const { drawers, profile } = pane.getState();
                set({
                  bay: "path",
                  drawers: drawerTab(drawers, "path", undefined),
                  profile: { ...profile, linearise: true },
                });
              } else if (chosen?.leads) set({ bay: chosen.leads as Bay });
              else if (chosen) setReading(chosen.change as Partial<ReadingChoice>);
            }}
          />
        </span>
      ))}{" "}
      <Recent />
      {line.data.guessed && (
        <span className="guess" title="The file states no unit">
          guessed
        </span>
      )}
    </div>
  );
}
