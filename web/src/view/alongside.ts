import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Packed } from "../api/binary";
import { type AlongsideHead, alongsideQuery, type KeptWords, useKept } from "../api/kept";
import { useReview } from "../api/queries";
import { useBench, usePane } from "../bench/store";
import { figure } from "../reading/format";

export interface DrawnAlongside {
  id: number;
  name: string;
  words: KeptWords["alongside"];
  faces: Packed<AlongsideHead> | undefined;
  error: Error | null;
  fetching: boolean;
}

const nothing: DrawnAlongside[] = [];

/** What is switched on of other results in this picture, at the step that goes with the one in view. */
export function useDrawnAlongside(): DrawnAlongside[] {
  const { result, reading, step } = useBench("result", "reading", "step");
  const kept = useKept("alongside", result).data;
  const results = useReview().data?.results;
  const on = useMemo(() => (kept ?? []).filter((a) => a.words.on), [kept]);
  const answers = useQueries({
    queries: on.map(({ words }) => alongsideQuery(result ?? 0, reading, step, words)),
    combine: (found) => found.map((f) => ({ data: f.data, error: f.error, fetching: f.isFetching })),
  });
  return useMemo(
    () =>
      on.length === 0
        ? nothing
        : on.map(({ id, words }, i) => ({
            id,
            name: results?.find((r) => r.id === words.other)?.name ?? `result ${words.other}`,
            words,
            faces: answers[i]?.data,
            error: answers[i]?.error ?? null,
            fetching: answers[i]?.fetching ?? false,
          })),
    [on, answers, results],
  );
}

/** Fetches what stands along with the body at another step, before it is shown. */
export function usePrefetchAlongside(): (step: number) => Promise<unknown> {
  const client = useQueryClient();
  const pane = usePane();
  const kept = useKept(
    "alongside",
    useBench((s) => s.result),
  ).data;
  return (step) => {
    const { result, reading } = pane.getState();
    const on = (kept ?? []).filter((a) => a.words.on && reading);
    return Promise.all(
      on.map((a) => client.prefetchQuery(alongsideQuery(result ?? 0, reading, step, a.words)).catch(() => undefined)),
    );
  };
}

/** What stands along with the body, in words: which result, at which of its steps, what its colours are. */
export function alongsideWords({ name, faces, error, words }: DrawnAlongside): string {
  if (error) return `${name}: ${error.message}`;
  if (!faces) return name;
  const { step, same, shown, own, low, high, unit, said } = faces.head;
  const when = step ? ` at ${step}${same ? "" : ", the nearest there is"}` : "";
  const colours = said
    ? `, plain: ${said}`
    : own
      ? `, in colours of ${shown}, from ${figure(low)} to ${figure(high)} ${unit}`.trimEnd()
      : words.shows === "reading"
        ? `, ${shown}`
        : "";
  return `${name}${when}${colours}`;
}
