import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, ask, type ValuesHead } from "../api/client";
import { useOtherHead, useOtherRange } from "../api/other";
import { useRange } from "../api/queries";
import { type KeyChoice, useBench } from "../bench/store";
import { chooseMap, isDiverging } from "../theme/colours";

/** Lowest and highest for each scale. */
interface Served {
  plain: number[];
  two_tones: number[];
  logarithmic: number[] | null;
}

/** The limits the key shows: typed ones, else those the service gives for the scale that is chosen. */
export function limitsOf(key: KeyChoice, signed: boolean, served: Served | null | undefined): [number, number] {
  const scale = isDiverging(chooseMap(key.map, signed)) ? served?.two_tones : served?.plain;
  const [first = 0, last = 1] = (key.log && served?.logarithmic) || scale || [];
  const low = key.low ?? first;
  const high = key.high ?? last;
  // The picture divides by what lies between them.
  return [low, high > low ? high : low + Math.max(Math.abs(low) * 1e-6, 1e-12)];
}

/** The limits of a pane's key, and whether it is one key with the other pane's. */
export function useLimits(head: ValuesHead | undefined): { limits: [number, number]; shared: boolean } {
  const key = useBench((s) => s.key);
  const tied = useBench((s) => s.ties.limits);
  const all = key.fit === "all";
  const [own, beside] = [useRange(all).data, useOtherRange(all)];
  const other = useOtherHead();
  const shared = tied && !!head?.key_of && head.key_of === other?.key_of;
  const ranges = shared ? [all && own ? own : spread(head), all && beside ? beside : spread(other)] : [];
  const there = ranges.filter((r) => r.low !== null && r.high !== null);
  const query = { low: there.map((r) => r.low!), high: there.map((r) => r.high!), limit: head?.limit ?? undefined };
  const both = useQuery({
    queryKey: ["key limits", query],
    enabled: there.length > 1,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => ask(api.GET("/api/key-limits", { params: { query }, signal })),
  });
  const alone = (all && own?.limits) || head?.limits;
  return { limits: limitsOf(key, head?.signed ?? false, (there.length > 1 && both.data) || alone), shared };
}

const spread = (head: ValuesHead | undefined) => ({ low: head?.min?.value ?? null, high: head?.max?.value ?? null });
