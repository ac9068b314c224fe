import type { Kind, Words } from "../api/asking";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { useKindOfSteps, useOverTime, useOverTimeWords } from "../lines/motion";
import { OtherKind, PlaceField, Told } from "./parts";

const ways: Option<"spectrum" | "shock" | "decay">[] = [
  { value: "spectrum", label: "spectrum" },
  { value: "shock", label: "shock", title: "Shock response spectrum of an acceleration, damping ratio 0.05" },
  { value: "decay", label: "decay", title: "Logarithmic decrement, damping ratio, settling time" },
];

/** What is read off the reading in view over time: its spectrum, a shock's response spectrum, how it dies away. */
export function TimeTab() {
  const { result, motion, set } = useBench("result", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useOverTimeWords();
  if (kind === undefined || !contents.data) return null;
  if (kind !== "time") return <OtherKind wanted="time" does="a spectrum" />;
  return (
    <>
      <h3>The reading in view over time</h3>
      <PlaceField contents={contents.data} />
      <Choices
        className="mt-2 mb-2"
        name="What is read off it"
        options={ways}
        value={motion.of}
        onChoose={(of) => set({ motion: { ...motion, of }, strata: true, tab: "time" })}
      />
      {words && <Read key={motion.of} kind={motion.of} words={words} />}
    </>
  );
}

function Read<K extends "spectrum" | "shock" | "decay">({ kind, words }: { kind: K; words: object }) {
  const asked = useOverTime(kind);
  return (
    <Told<Kind> asked={asked} what="Table" kind={kind} words={words as Words<Kind>} waiting="It is worked out …" />
  );
}
