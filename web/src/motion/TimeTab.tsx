import type { ReactNode } from "react";
import type { Kind, Words } from "../api/asking";
import type { Contents } from "../api/client";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, named, type Option } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { OptionalNumber } from "../controls/OptionalNumber";
import { PlaceField } from "../controls/PlaceField";
import { SelectField } from "../controls/SelectField";
import { type OverTime, useKindOfSteps, useOverTime, useOverTimeWords } from "../lines/motion";
import { MotionPlace, OtherKind, Told, useWays } from "./parts";

const ways: Option<OverTime>[] = [
  { value: "spectrum", label: "spectrum" },
  { value: "spectrogram", label: "spectrogram", title: "How the spectrum changes over time" },
  { value: "shock", label: "shock", title: "Shock response spectrum of an acceleration" },
  { value: "decay", label: "decay", title: "Logarithmic decrement, damping ratio, settling time" },
  { value: "rebound", label: "rebound", title: "Speed before and after, restitution, impulse against momentum" },
];

const windows = [
  { value: "hann", label: "Hann" },
  { value: "flattop", label: "flat-top" },
  { value: "none", label: "none" },
] as const;

/** What is read off a motion over time: spectra, a shock's response spectrum, how it dies away, how it bounced. */
export function TimeTab() {
  const { result, motion, set } = useBench("result", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useOverTimeWords();
  if (kind === undefined || !contents.data) return null;
  if (kind !== "time") return <OtherKind wanted="time" does="a spectrum" />;
  return (
    <>
      <h3>{motion.of === "rebound" ? "What moves, over time" : "The reading in view over time"}</h3>
      <MotionPlace contents={contents.data} />
      <Choices
        className="mt-2 mb-2"
        name="What is read off it"
        options={ways}
        value={motion.of}
        onChoose={(of) => set({ motion: { ...motion, of }, strata: true, tab: "time" })}
      />
      {settings[motion.of](contents.data)}
      {words && <Read key={motion.of} kind={motion.of} words={words} />}
    </>
  );
}

/** How each is worked out. */
const settings: Record<OverTime, (contents: Contents) => ReactNode> = {
  spectrum: () => <Spectrum />,
  spectrogram: () => <Spectrogram />,
  shock: () => <Shock />,
  decay: () => <Decay />,
  rebound: (contents) => <Rebound contents={contents} />,
};

function Window() {
  const [now, put] = useWays();
  return (
    <div className="row-line">
      <span>Window</span>
      <Choices name="Window" options={windows} value={now.window} onChoose={(window) => put({ window })} />
    </div>
  );
}

function Spectrum() {
  const [now, put] = useWays();
  return (
    <>
      <Window />
      <NumberField
        label="Power averaged over"
        unit="pieces"
        name="Pieces of the power"
        value={now.pieces}
        min={1}
        max={1000}
        whole
        onSet={(pieces) => put({ pieces })}
      />
    </>
  );
}

function Spectrogram() {
  const [now, put] = useWays();
  return (
    <>
      <Window />
      <OptionalNumber
        label="Pieces of"
        name="Length of a piece"
        usual="usual"
        unit="s"
        value={now.lasts}
        onSet={(lasts) => put({ lasts })}
      />
    </>
  );
}

function Shock() {
  const [now, put] = useWays();
  return (
    <NumberField label="Damping ratio" value={now.damping} min={0} max={0.99} onSet={(damping) => put({ damping })} />
  );
}

function Decay() {
  const [now, put] = useWays();
  return (
    <NumberField
      label="Settled within"
      unit="%"
      value={100 * now.within}
      min={0.01}
      max={99}
      onSet={(share) => put({ within: share / 100 })}
    />
  );
}

function Rebound({ contents }: { contents: Contents }) {
  const { motion, set } = useBench("motion", "set");
  const [now, put] = useWays();
  return (
    <>
      <div className="row-line">
        <span>Along</span>
        <Choices
          name="Direction of the motion"
          options={named("x", "y", "z")}
          value={motion.axis}
          onChoose={(axis) => set({ motion: { ...motion, axis } })}
        />
      </div>
      <SelectField
        label="Pushed at"
        name="What pushes"
        value={now.pushed}
        options={[
          { value: "", label: "choose a set" },
          ...contents.sets.map((s) => ({ value: s.name, label: s.name })),
        ]}
        onSet={(pushed) => put({ pushed })}
      />
      <PlaceField
        label="Meets"
        name="What it meets"
        contents={contents}
        value={now.meets}
        onSet={(meets) => put({ meets })}
      />
      <SelectField
        label="Mass of"
        name="The part that moves"
        value={now.moves}
        options={[{ value: "", label: "not asked" }, ...contents.parts.map((p) => ({ value: p.name, label: p.name }))]}
        onSet={(moves) => put({ moves })}
      />
    </>
  );
}

function Read<K extends OverTime>({ kind, words }: { kind: K; words: Words<Kind> }) {
  const asked = useOverTime(kind);
  return <Told<Kind> asked={asked} what="Table" kind={kind} words={words} waiting="It is worked out …" />;
}
