import { useEffect } from "react";
import { measureOf } from "../api/client";
import { useContents, useValues } from "../api/queries";
import { type Averaging, type Of, type Over, useBench } from "../bench/store";
import { Chooser } from "./Chooser";

const averagings: { value: Averaging; label: string; explanation: string }[] = [
  {
    value: "off",
    label: "each corner as computed",
    explanation: "Nothing is averaged: every element keeps its own value at a shared node.",
  },
  {
    value: "element",
    label: "mean of each element",
    explanation: "The integral over the element divided by its volume.",
  },
  {
    value: "part",
    label: "averaged within each part",
    explanation: "Elements of one part that meet at a node share their mean; never across a border.",
  },
  { value: "material", label: "averaged within each material", explanation: "As within each part, by material." },
  {
    value: "all",
    label: "averaged across everything",
    explanation: "Also across borders, where the value may exist in neither part.",
  },
];

const ofChoices: { value: Of; label: string; explanation: string }[] = [
  { value: "value", label: "the value itself", explanation: "What the elements have." },
  {
    value: "jump",
    label: "jump between elements",
    explanation: "Highest less lowest of the elements that meet at a node.",
  },
  {
    value: "jump-within-material",
    label: "jump within one material",
    explanation: "Across materials a jump is physics, within one it is error.",
  },
  {
    value: "error",
    label: "error estimate",
    explanation: "Energy norm of averaged less raw stress in each element, against the mean energy density.",
  },
];

/** One step, or over many: what the word before the step can be. */
const overChoices = [
  { value: "step", label: "at one step", explanation: "The step in view." },
  { value: "largest", label: "largest over all steps", explanation: "Each place at its own highest." },
  { value: "smallest", label: "smallest over all steps", explanation: "Each place at its own lowest." },
  { value: "magnitude", label: "largest magnitude over all steps", explanation: "Farthest from zero, with its sign." },
  { value: "largest so-far", label: "largest so far", explanation: "Up to the step in view." },
  { value: "largest when", label: "step at which it is largest", explanation: "The time, not the value." },
];

const againstChoices = [
  { value: "", label: "nothing taken off", explanation: "The reading itself." },
  { value: "step=0", label: "minus the first step", explanation: "What has been added since." },
  { value: "averaging=off;of=value", label: "minus each corner as computed", explanation: "What averaging does." },
  { value: "averaging=part", label: "minus averaged within each part", explanation: "What averaging would take away." },
  { value: "averaging=material", label: "minus averaged within each material", explanation: "The same, by material." },
  { value: "averaging=all", label: "minus averaged across everything", explanation: "The same, across borders too." },
  { value: "axes=global", label: "minus the same in global axes", explanation: "What the axes change." },
];

const placeOf = (location: string) => (location === "gauss" ? "Gauss point" : location);

const axesLabel = (name: string, kind: string) =>
  name === "global"
    ? "global axes"
    : kind === "element" || kind === "material"
      ? `each ${kind}'s own axes`
      : `axes ${name} (${kind})`;

function overLabel(over: Over, span: string, when: boolean): string {
  if (over === "step") return "at";
  if (when) return "step at which it is largest, seen from";
  const lead = { largest: "largest", smallest: "smallest", magnitude: "largest magnitude" }[over];
  return span === "so-far" ? `${lead} so far, up to` : `${lead} over all steps, shape at`;
}

/** A component's name by the directions of the axes it is told in. */
function labelIn(
  axes: { name: string; directions: string[] } | undefined,
  rank: string,
  measure: { name: string; label: string; direction: number | null },
): string {
  if (!axes || axes.name === "global" || measure.direction === null) return measure.label;
  const at = measure.direction;
  if (rank === "vector" || at < 3) return `${axes.directions[at]} component`;
  const [a, b] = [
    [0, 1],
    [1, 2],
    [0, 2],
  ][at - 3]!;
  const lead = measure.name.startsWith("gamma") ? "engineering shear" : "shear";
  return `${lead} ${axes.directions[a!]}-${axes.directions[b!]}`;
}

/** Readings looked at before, by their sentences; one click brings one back. */
function Recent() {
  const { result, reading, recent, set } = useBench();
  const values = useValues();
  const sentence = values.isPlaceholderData ? undefined : values.data?.head.sentence;
  useEffect(() => {
    const state = useBench.getState();
    if (!sentence || !state.reading) return;
    const alone = sentence.replace(/, at [^,]*\(step [^)]*\)/, "");
    const others = state.recent.filter((r) => r.sentence !== alone);
    set({ recent: [{ reading: state.reading, sentence: alone }, ...others].slice(0, 12) });
  }, [sentence, set]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: readings of another result may mean nothing here
  useEffect(() => set({ recent: [] }), [result]);
  if (recent.length < 2 || !reading) return null;
  return (
    <Chooser
      label="recent"
      title="Recent readings"
      className="word-plain"
      choices={recent.map((r) => ({ value: r.sentence, label: r.sentence }))}
      value={recent.find((r) => r.reading === reading)?.sentence ?? ""}
      onChoose={(s) => {
        const found = recent.find((r) => r.sentence === s);
        if (found) set({ reading: found.reading });
      }}
    />
  );
}

/** What one looks at, as a sentence; every word group opens its choices in place. */
export function ReadingLine() {
  const { result, reading, step, setReading, set } = useBench();
  const contents = useContents(result);
  const values = useValues();
  if (!contents.data || !reading) return <div className="reading-line quiet">Nothing to read yet.</div>;
  const field = contents.data.fields.find((f) => f.name === reading.field);
  if (!field) return <div className="reading-line quiet">That field is not in this result.</div>;
  const words = values.data?.head.words;
  const measure = measureOf(field, reading.measure);
  const nodal = field.location === "node";
  const smooth = averagings.find((a) => a.value === reading.averaging)!;
  const averagingLabel = field.names
    ? "a name, as it is"
    : nodal
      ? field.averaged_before
        ? "averaged before import"
        : "as computed at the nodes"
      : field.location === "element" && reading.averaging === "off"
        ? "each element as computed"
        : smooth.label +
          (reading.order === "measure" && ["part", "material", "all"].includes(reading.averaging)
            ? ", measure first"
            : "");
  const steps = contents.data.steps;
  const axes = contents.data.axes.find((a) => a.name === reading.axes);
  // An error estimate and the step at which something happens have units of their own.
  const odd = reading.of === "error" || reading.when;
  const unit = odd ? (reading.when ? (steps[0]?.unit ?? "") : "") : (reading.unit ?? measure?.unit ?? "");
  // What belongs to the tensor itself, or the length of a vector, is the same in all axes.
  const directed = measure != null && (measure.direction !== null || measure.needs.includes("plane"));
  return (
    <div className="reading-line" data-testid="reading-line">
      {reading.of !== "value" && (
        <>
          <Chooser
            label={ofChoices.find((c) => c.value === reading.of)!.label}
            title="Value or jump"
            marked
            choices={ofChoices.map((o) => ({
              ...o,
              impossible:
                o.value !== "error"
                  ? undefined
                  : field.kind !== "stress" || field.rank !== "tensor"
                    ? "The energy norm is that of a stress."
                    : contents.data!.materials.some((m) => m.young !== null)
                      ? undefined
                      : "State Young's modulus and Poisson's ratio in Intake first.",
            }))}
            value={reading.of}
            onChoose={(of) => setReading({ of: of as Of })}
          />{" "}
          of{" "}
        </>
      )}
      {field.measures.length > 1 && reading.of !== "error" && (
        <>
          <Chooser
            label={words?.measure ?? measure?.label ?? reading.measure}
            title="Measure"
            choices={field.measures.map((m) => ({
              value: m.name,
              label: labelIn(axes, field.rank, m),
              explanation: m.explanation,
              impossible:
                m.needs.some((n) => n !== "plane") && !contents.data!.materials.some((k) => k.young !== null)
                  ? "State Young's modulus and Poisson's ratio in Intake first."
                  : undefined,
            }))}
            value={measure?.name ?? ""}
            onChoose={(m) => {
              const chosen = field.measures.find((k) => k.name === m);
              setReading({
                measure: m,
                plane: chosen?.needs.includes("plane") ? (reading.plane ?? "0,0,1") : reading.plane,
              });
            }}
          />{" "}
          of{" "}
        </>
      )}
      <Chooser
        label={field.name.replaceAll("_", " ")}
        title="Field"
        marked={field.averaged_before}
        choices={contents.data.fields.map((f) => ({
          value: f.name,
          label: f.name.replaceAll("_", " "),
          explanation: f.labels.length
            ? `its name, at each ${f.location}`
            : f.names
              ? `names something, at each ${f.location}`
              : `${f.kind || "kind not known"}${f.guessed ? " (guessed)" : ""}, ${f.rank} at each ${placeOf(f.location)}, ${f.unit || "pure number"}`,
          note: f.recovered ? "recovered" : undefined,
        }))}
        value={field.name}
        onChoose={(name) => {
          const next = contents.data!.fields.find((f) => f.name === name)!;
          const keeps = next.measures.some((m) => m.name === reading.measure);
          setReading({
            of: next.location === "node" ? "value" : reading.of,
            field: name,
            measure: keeps ? reading.measure : (next.measures[0]?.name ?? ""),
            unit: null,
            averaging: next.names ? "off" : reading.averaging,
            over: next.names ? "step" : reading.over,
            against: next.names ? null : reading.against,
          });
        }}
      />
      {field.rank !== "scalar" && (directed || reading.axes !== "global") && (
        <>
          , in{" "}
          <Chooser
            label={words?.axes ?? "global axes"}
            title="Axes"
            marked={reading.axes !== "global"}
            choices={contents.data.axes.map((a) => ({
              value: a.name,
              label: axesLabel(a.name, a.kind),
              explanation: a.directions.join(", "),
              impossible:
                nodal && (a.kind === "element" || a.kind === "material") && reading.averaging === "off"
                  ? "A node has no element of its own whose axes these would be."
                  : undefined,
            }))}
            value={reading.axes}
            onChoose={(axes) => setReading({ axes })}
          />
        </>
      )}
      {reading.of !== "error" && ", "}
      {reading.of !== "error" && (
        <Chooser
          label={averagingLabel}
          title="Averaging"
          marked={!nodal && reading.averaging !== "off"}
          choices={averagings.map((a) => ({
            ...a,
            impossible:
              field.names && a.value !== "off"
                ? "These numbers name something: a mean of them means nothing."
                : nodal && a.value !== "off" && a.value !== "element"
                  ? "A nodal field has one value at each node: there is nothing to average."
                  : undefined,
          }))}
          value={reading.averaging}
          onChoose={(a) => setReading({ averaging: a as Averaging })}
        />
      )}
      , on{" "}
      <Chooser
        label={words?.region ?? "the whole model"}
        title="Region"
        choices={[
          { value: "all", label: "the whole model" },
          ...contents.data.parts.map((p) => ({
            value: `part:${p.name}`,
            label: `part ${p.name}`,
            explanation: `${p.elements} elements`,
          })),
          ...(contents.data.materials.length > 1
            ? contents.data.materials.map((m) => ({
                value: `material:${m.name}`,
                label: `material ${m.name}`,
                explanation: `${m.elements} elements`,
              }))
            : []),
          ...contents.data.sets
            .filter((s) => s.of === "elements")
            .map((s) => ({ value: `set:${s.name}`, label: `set ${s.name}`, explanation: `${s.count} elements` })),
        ]}
        value={reading.region}
        onChoose={(region) => setReading({ region })}
      />
      ,{" "}
      <Chooser
        label={overLabel(reading.over, reading.span, reading.when)}
        title="One step or many"
        marked={reading.over !== "step"}
        choices={overChoices.map((o) => ({
          ...o,
          impossible: steps.length < 2 && o.value !== "step" ? "This result has one step." : undefined,
        }))}
        value={[reading.over, reading.when ? "when" : reading.span === "so-far" ? "so-far" : ""].join(" ").trim()}
        onChoose={(chosen) => {
          const [over, more] = chosen.split(" ");
          setReading({ over: over as Over, span: more === "so-far" ? "so-far" : "all", when: more === "when" });
        }}
      />{" "}
      <Chooser
        label={`${steps[step]?.label ?? ""} (${step + 1}/${steps.length})`}
        title="Step"
        choices={steps.map((s) => ({
          value: String(s.index),
          label: s.label,
          note: contents
            .data!.rail.marks.filter((m) => m.step === s.index)
            .map((m) => m.label)
            .join(", "),
        }))}
        value={String(step)}
        onChoose={(s) => set({ step: Number(s), playing: false })}
      />
      {!field.names && (
        <>
          , in{" "}
          <Chooser
            label={unit || "pure number"}
            title="Unit"
            marked={contents.data.system_guessed && Boolean(field.unit)}
            choices={(odd ? [unit] : (measure?.units ?? [])).map((u) => ({ value: u, label: u || "pure number" }))}
            value={unit}
            onChoose={(unit) => setReading({ unit })}
          />
        </>
      )}{" "}
      <Chooser
        label={reading.against ? `minus the same, ${words?.against ?? "…"}` : "minus …"}
        title="Taken off"
        className={reading.against ? "" : "word-plain"}
        marked={Boolean(reading.against)}
        choices={againstChoices.map((a) => ({
          ...a,
          impossible:
            field.names && a.value ? "These numbers name something: a difference of them means nothing." : undefined,
        }))}
        value={reading.against ?? ""}
        onChoose={(against) => setReading({ against: against || null })}
      />{" "}
      <Recent />
      {contents.data.system_guessed && field.unit && (
        <span className="guess" title="The file states no unit">
          guessed
        </span>
      )}
    </div>
  );
}
