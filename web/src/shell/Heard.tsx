import { useEffect, useRef, useState } from "react";
import { useFlagAnswer, useFlags } from "../api/marks";
import { useContents, useCurve, useMatch, useValues } from "../api/queries";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";
import { shown } from "./bays";

/** Something that is said once whenever it becomes another; nothing of what the page began with. */
function useSaid(say: (text: string) => void, text: string | undefined): void {
  const before = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (text === undefined || text === before.current) return;
    if (before.current !== undefined) say(text);
    before.current = text;
  }, [text, say]);
}

/** What changed of what is in view, for those who do not see it: bay, result, reading, step with its values, flag, verdict. */
export function Heard() {
  const { bay, playing, result, step, test } = useBench("bay", "playing", "result", "step", "test");
  const [text, say] = useState("");
  useSaid(say, `${shown[bay].label} bay`);
  const contents = useContents(result);
  const values = useValues();
  const head = values.isPlaceholderData || playing ? undefined : values.data?.head;
  const label = contents.data?.steps[step]?.label;
  const ends =
    head?.max && head.min
      ? `highest ${figure(head.max.value)}, lowest ${figure(head.min.value)} ${head.unit}`
      : head && "no value";
  // The step is a word of its own in a sentence; where it alone is another, the rest has been said.
  const reading = head?.sentence.replace(/, at [^,]*\(step [^)]*\)/, "");
  const said = useRef("");
  useEffect(() => {
    if (!head || !reading) return;
    const now = `${contents.data?.name ?? ""}: ${reading}`;
    const first = said.current === "";
    const same = said.current === now;
    said.current = now;
    if (!first) say(`${same ? (label ?? "") : `${now}${label ? `, ${label}` : ""}`}: ${ends}.`);
  }, [head, reading, label, ends, contents.data?.name]);
  const match = useMatch(useCurve()?.id ?? null, test);
  useSaid(say, bay === "trace" ? match.data?.verdict : undefined);
  return (
    <>
      <div className="visually-hidden" aria-live="polite" data-testid="heard">
        {text}
      </div>
      <HeardFlag say={say} />
    </>
  );
}

/** A flag that was planted: where it is and what it says. */
function HeardFlag({ say }: { say: (text: string) => void }) {
  const result = useBench((s) => s.result);
  const flags = useFlags(result).data;
  const known = useRef<{ result: number | null; ids: number[] } | null>(null);
  const [fresh, setFresh] = useState<number | null>(null);
  useEffect(() => {
    if (!flags) return;
    const ids = flags.map((f) => f.id);
    const before = known.current?.result === result ? known.current.ids : null;
    known.current = { result, ids };
    const planted = before && ids.find((id) => !before.includes(id));
    if (planted) setFresh(planted);
  }, [flags, result]);
  const number = (flags?.findIndex((f) => f.id === fresh) ?? -1) + 1;
  return fresh !== null && number > 0 ? (
    <SaidFlag key={fresh} id={fresh} number={number} say={say} onSaid={() => setFresh(null)} />
  ) : null;
}

function SaidFlag(of: { id: number; number: number; say: (text: string) => void; onSaid: () => void }) {
  const { id, number, say, onSaid } = of;
  const answer = useFlagAnswer(id).data;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when its answer is there
  useEffect(() => {
    if (!answer) return;
    const values = answer.entries
      .slice(0, 4)
      .map((e) => `${e.name ?? figure(e.value)}${e.part ? ` in ${e.part}` : ""}`);
    say(`Flag ${number} at ${answer.place}: ${values.join("; ")} ${answer.unit}.`);
    onSaid();
  }, [answer]);
  return null;
}
