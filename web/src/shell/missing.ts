import { useEffect } from "react";
import type { Contents } from "../api/client";
import { useKept, useTables } from "../api/kept";
import { useContents, usePairings, useReview, useTests } from "../api/queries";
import { arriveWith, useArrival } from "../bench/arrival";
import { isBay } from "../bench/bays";
import { tell } from "../bench/notices";
import { Problem } from "../bench/problem";
import { unknownWords } from "../bench/readingChoice";
import { useBench } from "../bench/store";

/** What a link may name by its number, and what there is of it; undefined while that is not known. */
type Numbered = { word: string; what: string; there: number[] | undefined };

const numbers = (text: string | null) => (text ?? "").split(",").filter(Boolean);

/** What a link names that is not there any more, each in a few words. */
export function missingOf(address: URLSearchParams, contents: Contents | undefined, lists: Numbered[]): string[] {
  const gone: string[] = [];
  const bay = address.get("bay");
  if (bay !== null && !isBay(bay)) gone.push(`the bay '${bay}'`);
  if (contents) {
    const name = address.get("field");
    const field = contents.fields.find((f) => f.name === name);
    const measure = address.get("measure");
    if (name && !field) gone.push(`the field '${name}'`);
    else if (field && measure && !field.measures.some((m) => m.name === measure))
      gone.push(`the measure '${measure}' of ${field.name}`);
    const axes = address.get("axes");
    if (axes && !contents.axes.some((a) => a.name === axes)) gone.push(`the axes '${axes}'`);
    const [, kind, region] = /^(part|set):(.*)$/.exec(address.get("region") ?? "") ?? [];
    if (kind && !(kind === "part" ? contents.parts : contents.sets).some((r) => r.name === region))
      gone.push(`the ${kind} '${region}'`);
    const step = address.get("step");
    if (step !== null && !(Number(step) >= 0 && Number(step) < contents.steps.length))
      gone.push(
        `step ${/^\d+$/.test(step) ? Number(step) + 1 : `'${step}'`} (there ${contents.steps.length === 1 ? "is one" : `are ${contents.steps.length}`})`,
      );
  }
  gone.push(...unknownWords(address));
  for (const { word, what, there } of lists) {
    const lost = numbers(address.get(word)).filter((n) => !there?.includes(Number(n)));
    if (lost.length) gone.push(lost.length > 1 ? `${lost.length} ${what}s` : `the ${what}`);
  }
  return gone;
}

/** Says what of a link that was followed is not there any more, once all it names is known; what stands in its place is in view. */
export function useMissing(): void {
  const address = useArrival((s) => s.address);
  const result = useBench((s) => s.result);
  const review = useReview().data;
  const contents = useContents(result);
  const asked = (word: string) => (address?.get(word) ? result : null);
  const results = review?.results.map((r) => r.id);
  const ids = (list: { id: number }[] | undefined) => list?.map((i) => i.id);
  const pairings = ids(usePairings(result).data);
  const tests = ids(useTests().data);
  const lists: Numbered[] = [
    { word: "curve", what: "curve", there: pairings },
    { word: "record", what: "test record", there: tests },
    { word: "profile-record", what: "test record", there: tests },
    { word: "also", what: "other result", there: results },
    { word: "second", what: "result it is compared with", there: results },
    { word: "paths", what: "line", there: ids(useKept("path", asked("paths")).data) },
    { word: "gauges", what: "gauge list", there: ids(useKept("gauges", asked("gauges")).data) },
    { word: "cut", what: "cut", there: ids(useKept("cut", asked("cut")).data) },
    { word: "table", what: "table", there: ids(useTables().data) },
  ].filter((l) => address?.get(l.word));
  const named = Number(address?.get("result") || Number.NaN);
  const lostResult = results !== undefined && Number.isFinite(named) && !results.includes(named);
  // While the page still shows another result than the link names it is on its way there.
  const there = lostResult || !Number.isFinite(named) || named === result;
  const known = there && contents.data?.id === result && lists.every((l) => l.there !== undefined);
  useEffect(() => {
    if (!address || !review || (review.results.length > 0 && !known)) return;
    arriveWith(null);
    // Numbers of another result's things mean nothing in the one that is shown in its place.
    const gone = lostResult ? ["the result"] : missingOf(address, contents.data, lists);
    if (!gone.length) return;
    const said = gone.length === 1 ? gone[0]! : `${gone.slice(0, -1).join(", ")} and ${gone[gone.length - 1]!}`;
    const instead = lostResult
      ? `${contents.data?.name ?? "Nothing"} is shown instead.`
      : "What is in view stands in its place.";
    tell(
      new Problem(
        `Of this link ${said} ${gone.length === 1 && !/s$/.test(gone[0]!.split(" ")[1] ?? "") ? "is" : "are"} not here any more.`,
        `${instead} What was removed can be brought back in Intake.`,
      ),
    );
  });
}
