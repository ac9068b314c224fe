import { useQuery } from "@tanstack/react-query";
import { freshLook, useOtherBench, usePane } from "../bench/store";
import type { ValuesHead } from "./client";
import { type InView, inViewOf, rangeQuery, useContents, valuesQuery } from "./queries";

/** What the other pane of two shows beside its values; nothing where there is one pane. */
export function useOtherHead(): ValuesHead | undefined {
  const { index } = usePane();
  const view = useOtherBench((s) => inViewOf(1 - index, s));
  const meshes = useContents(view?.result ?? null).data?.meshes;
  const none: InView = { pane: index, result: null, reading: null, step: 0, look: freshLook, weigh: "area" };
  const asked = useQuery({
    ...valuesQuery(view ?? none, meshes),
    enabled: view !== null && view.result !== null && view.reading !== null,
  });
  return asked.data?.head;
}

/** Lowest and highest over all steps of what the other pane shows; nothing where there is one pane. */
export function useOtherRange(enabled: boolean) {
  const { index } = usePane();
  const [result, reading] = useOtherBench((s) => [s.result, s.reading] as const) ?? [null, null];
  return useQuery(rangeQuery(enabled, result, reading, 1 - index)).data;
}
