import { measureOf } from "../api/client";
import { useContents, useValues } from "../api/queries";
import { type Averaging, type Of, useBench } from "../bench/store";
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
];

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
  const averagingLabel = nodal
    ? field.averaged_before
      ? "averaged before import"
      : "as computed at the nodes"
    : smooth.label +
      (reading.order === "measure" && ["part", "material", "all"].includes(reading.averaging) ? ", measure first" : "");
  const steps = contents.data.steps;
  return (
    <div className="reading-line" data-testid="reading-line">
      {reading.of !== "value" && (
        <>
          <Chooser
            label={ofChoices.find((c) => c.value === reading.of)!.label}
            title="Value or jump"
            marked
            choices={ofChoices}
            value={reading.of}
            onChoose={(of) => setReading({ of: of as Of })}
          />{" "}
          of{" "}
        </>
      )}
      {field.measures.length > 1 && (
        <>
          <Chooser
            label={measure?.label ?? reading.measure}
            title="Measure"
            choices={field.measures.map((m) => ({ value: m.name, label: m.label, explanation: m.explanation }))}
            value={measure?.name ?? ""}
            onChoose={(m) => setReading({ measure: m })}
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
          explanation: `${f.kind || "kind not known"}${f.guessed ? " (guessed)" : ""}, ${f.rank} at each ${f.location}, ${f.unit || "pure number"}`,
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
          });
        }}
      />
      ,{" "}
      <Chooser
        label={averagingLabel}
        title="Averaging"
        marked={!nodal && reading.averaging !== "off"}
        choices={averagings.map((a) => ({
          ...a,
          impossible:
            nodal && a.value !== "off" && a.value !== "element"
              ? "A nodal field has one value at each node: there is nothing to average."
              : undefined,
        }))}
        value={reading.averaging}
        onChoose={(a) => setReading({ averaging: a as Averaging })}
      />
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
          ...contents.data.sets
            .filter((s) => s.of === "elements")
            .map((s) => ({ value: `set:${s.name}`, label: `set ${s.name}`, explanation: `${s.count} elements` })),
        ]}
        value={reading.region}
        onChoose={(region) => setReading({ region })}
      />
      , at{" "}
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
      , in{" "}
      <Chooser
        label={(reading.unit ?? measure?.unit) || "pure number"}
        title="Unit"
        marked={contents.data.system_guessed && Boolean(field.unit)}
        choices={(measure?.units ?? []).map((u) => ({ value: u, label: u || "pure number" }))}
        value={reading.unit ?? measure?.unit ?? ""}
        onChoose={(unit) => setReading({ unit })}
      />
      {contents.data.system_guessed && field.unit && (
        <span className="guess" title="The file states no unit">
          guessed
        </span>
      )}
    </div>
  );
}
