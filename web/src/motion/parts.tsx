import type { ReactNode } from "react";
import type { Answer, Kind, Words } from "../api/asking";
import type { Contents } from "../api/client";
import { useContents, useReview } from "../api/queries";
import type { MotionWays } from "../bench/motionState";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { FiguresTable } from "../controls/AnswerTable";
import { PlaceField } from "../controls/PlaceField";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { useKindOfSteps } from "../lines/motion";

/** What an answer says: verdict, figures, sentence, caveats, its table; or why there is none, or that it is asked for. */
export function Told<K extends Kind>({
  asked,
  what,
  kind,
  words,
  waiting,
  figures: withFigures = true,
  also,
}: {
  asked: { data?: Answer; error: Error | null; isPlaceholderData: boolean };
  what: string;
  kind: K;
  words: Words<K>;
  waiting: string;
  /** Whether its figures are told here: not where a table of them stands above. */
  figures?: boolean;
  /** What else leaves of it. */
  also?: ReactNode;
}) {
  const { result, set } = useBench("result", "set");
  const contents = useContents(result);
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return <div className="quiet">{waiting}</div>;
  const { verdict, state, figures, sentence, caveats } = asked.data;
  return (
    <div className={asked.isPlaceholderData ? "former" : ""}>
      {verdict && (
        <div className={`verdict ${state && `verdict-${state}`}`} data-testid="motion-verdict">
          {verdict}
        </div>
      )}
      {withFigures && <FiguresTable figures={figures} testid="motion-figures" />}
      <div className="small-line quiet">{sentence}</div>
      {caveats.map((c) => (
        <div className="caveat caveat-in" key={c}>
          {c}
        </div>
      ))}
      <div className="row-line actions">
        <button
          type="button"
          className="ghost"
          onClick={() => set({ strata: true, tab: plotOfKind[kind]!, beside: "" })}
        >
          Plot
        </button>
        <AnswerLeaves what={what} kind={kind} words={words} name={`${contents.data?.name} ${what.toLowerCase()}`} />
        {also}
      </div>
    </div>
  );
}

const plotOfKind: Partial<Record<Kind, string>> = {
  modes: "modes",
  mac: "shapes",
  response: "response",
  "mode-shares": "shares",
  spectrum: "time",
  shock: "time",
  decay: "time",
  spectrogram: "time",
  rebound: "time",
};

/** How a motion is worked out, and how that is changed. */
export function useWays(): [MotionWays, (change: Partial<MotionWays>) => void] {
  const { motion, set } = useBench("motion", "set");
  return [motion.ways, (change) => set({ motion: { ...motion, ways: { ...motion.ways, ...change } } })];
}

const says: Record<string, string> = {
  mode: "modes",
  frequency: "a sweep of frequencies",
  time: "a motion over time",
};

/** What is said where the steps of the result in view are of another kind, and which results have the one that is wanted. */
export function OtherKind({ wanted, does }: { wanted: string; does: string }) {
  const result = useBench((s) => s.result);
  const contents = useContents(result);
  const kind = useKindOfSteps();
  return (
    <div className="quiet" data-testid="other-kind">
      {contents.data?.name} is {says[kind ?? ""] ?? `told by ${kind}`}: {does} takes {says[wanted]}. Choose such a
      result in Intake (key 1), or state there what its steps are.
    </div>
  );
}

/** Where a motion is read: typed, or the node that was flagged last. */
export function MotionPlace({ contents }: { contents: Contents }) {
  const { motion, set } = useBench("motion", "set");
  return (
    <>
      <PlaceField
        label="At"
        name="Place of the motion"
        contents={contents}
        value={motion.at}
        onSet={(at) => set({ motion: { ...motion, at } })}
      />
      {!motion.at && (
        <div className="small-line quiet">A flag (Field, then a click on the model) tells the number of its node.</div>
      )}
    </>
  );
}

/** The other result: whose modes are held against, or a motion is made of. */
export function OtherField({ label }: { label: string }) {
  const { result, motion, set } = useBench("result", "motion", "set");
  const results = useReview().data?.results ?? [];
  return (
    <SelectField
      label={label}
      name={label}
      value={motion.other === null ? "" : String(motion.other)}
      options={[
        { value: "", label: "choose a result" },
        ...results.filter((r) => r.id !== result).map((r) => ({ value: String(r.id), label: r.name })),
      ]}
      onSet={(v) => set({ motion: { ...motion, other: v === "" ? null : Number(v), modes: [] } })}
    />
  );
}
