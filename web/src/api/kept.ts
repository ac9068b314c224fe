import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { readingQuery } from "../bench/readingChoice";
import type { Look, ReadingChoice } from "../bench/store";
import { fetchPacked, query } from "./binary";
import { api, ask, type Schemas } from "./client";
import { useChange } from "./queries";

/** The words of each kind of thing that is kept by the addresses all kinds share. */
export interface KeptWords {
  path: Schemas["PathIn"];
  cut: Schemas["CutIn"];
  alongside: Schemas["AlongsideIn"];
  view: Schemas["ViewIn"];
  gauges: Schemas["GaugeList"];
  coupons: Schemas["Coupons"];
  "part-tests": Schemas["PartTests"];
  table: Schemas["Table"];
  mass: Schemas["MassIn"];
}

export interface Kept<Words> {
  id: number;
  revision: number;
  words: Words;
}

export function useKept<Kind extends keyof KeptWords>(kind: Kind, result: number | null) {
  return useQuery({
    queryKey: ["kept", kind, result],
    enabled: result !== null,
    queryFn: async ({ signal }) =>
      (await ask(
        api.GET("/api/kept/{kind}", { params: { path: { kind }, query: { result: result! } }, signal }),
      )) as unknown as Kept<KeptWords[Kind]>[],
  });
}

/** The tables of several results: they are of no single one. */
export const useTables = () =>
  useQuery({
    queryKey: ["kept", "table"],
    queryFn: async ({ signal }) =>
      (await ask(api.GET("/api/kept/{kind}", { params: { path: { kind: "table" } }, signal }))) as unknown as Kept<
        KeptWords["table"]
      >[],
  });

/** Keeping, changing and removing things of a kind. */
export function useKeeping<Kind extends keyof KeptWords>(kind: Kind) {
  const keep = useChange(
    async (words: Partial<KeptWords[Kind]>) =>
      (await ask(
        api.POST(`/api/keep/${kind}` as "/api/keep/path", { body: words as unknown as Schemas["PathIn"] }),
      )) as unknown as Kept<KeptWords[Kind]>,
  );
  const change = useChange(({ id, words }: { id: number; words: Partial<KeptWords[Kind]> }) =>
    ask(
      api.PUT("/api/kept/{kind}/{item}", {
        params: { path: { kind, item: id } },
        body: words as unknown as Record<string, never>,
      }),
    ),
  );
  const remove = useChange((id: number) => removeKept(kind, id));
  /** The words of a thing with the change that is under way, so that a switch stands where it was put. */
  const now = (item: Kept<KeptWords[Kind]>): KeptWords[Kind] =>
    change.isPending && change.variables.id === item.id ? { ...item.words, ...change.variables.words } : item.words;
  return { keep, change, remove, now };
}

/** Removes something that is kept, of whatever kind; undo brings it back. */
export const removeKept = (kind: string, item: number) =>
  ask(api.DELETE("/api/kept/{kind}/{item}", { params: { path: { kind, item } } }));

/** States the mass of the whole of a result, in place of what was stated before. */
export const keepMass = (words: KeptWords["mass"]) => ask(api.POST("/api/keep/mass", { body: words }));

/** A change of what is stated of a result: every answer may be another after it. */
export function useStating<In, Out>(work: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: "changes" },
    mutationFn: work,
    onSuccess: async () => {
      // What is on its way may be from before the change.
      await client.cancelQueries();
      await client.invalidateQueries();
    },
  });
}

export const withoutNulls = <T extends object>(words: T): Partial<T> =>
  Object.fromEntries(Object.entries(words).filter(([, v]) => v !== null)) as Partial<T>;

export interface CutHead {
  /** Positions count from here. */
  origin: [number, number, number];
  of: string;
  /** What its colours are of, and whether that is a reading of its own. */
  shown: string;
  unit: string;
  own: boolean;
  triangles: number;
  low: number | null;
  high: number | null;
  /** What its values were sent without. */
  base: number;
}

export type CutWords = KeptWords["cut"];

/** What is drawn of a cut at a step: triangles with a reading on them. */
export function cutFacesQuery(
  result: number,
  reading: ReadingChoice | null,
  step: number,
  look: Look,
  cut: Pick<CutWords, "through" | "iso" | "band" | "reading" | "shows" | "own">,
) {
  const asked =
    reading &&
    query({
      ...readingQuery(reading, step),
      through: cut.through,
      iso: (cut.iso ?? []).join(","),
      band: cut.band,
      values_of: cut.reading ? JSON.stringify(cut.reading) : "",
      shown: cut.shows === "own" && cut.own ? JSON.stringify(cut.own) : "",
      hidden: look.hidden.join(","),
    });
  return {
    queryKey: ["cut faces", result, asked],
    enabled: asked !== null,
    retry: false,
    staleTime: 60_000,
    gcTime: 60_000,
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      fetchPacked<CutHead>(`/api/results/${result}/cut-faces?${asked}`, signal),
  };
}

/** Of another result in the picture: at which of its steps, whether that is the moment in view, what it lacks of the reading. */
export interface AlongsideHead extends CutHead {
  step: string;
  same: boolean;
  said: string;
}

/** What is drawn of another result along with one, at the step that goes with the one in view. */
export function alongsideQuery(
  result: number,
  reading: ReadingChoice | null,
  step: number,
  words: KeptWords["alongside"],
) {
  const asked =
    reading &&
    query({
      ...readingQuery(reading, step),
      other: words.other,
      shows: words.shows ?? "plain",
      shown: words.shows === "own" && words.own ? JSON.stringify(words.own) : "",
      edges: words.edges ?? true,
    });
  return {
    queryKey: ["alongside", result, asked],
    enabled: asked !== null,
    retry: false,
    staleTime: 60_000,
    gcTime: 60_000,
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      fetchPacked<AlongsideHead>(`/api/results/${result}/alongside?${asked}`, signal),
  };
}
