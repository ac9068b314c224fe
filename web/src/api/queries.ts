import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReadingChoice, useBench } from "../bench/store";
import { fetchPacked, query } from "./binary";
import { api, ask, type TestUse, type ValuesHead } from "./client";

export interface SurfaceHead {
  centre: [number, number, number];
  radius: number;
  faces: number;
  planar: boolean;
}

const readingQuery = (reading: ReadingChoice, step: number) => ({
  field: reading.field,
  measure: reading.measure,
  averaging: reading.averaging,
  order: reading.order,
  region: reading.region,
  step,
  unit: reading.unit ?? undefined,
  of: reading.of,
});

export const useReview = () =>
  useQuery({ queryKey: ["review"], queryFn: ({ signal }) => ask(api.GET("/api/review", { signal })) });

export const useContents = (result: number | null) =>
  useQuery({
    queryKey: ["contents", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/results/{result}", { params: { path: { result: result! } }, signal })),
  });

export const useSurface = (result: number | null) =>
  useQuery({
    queryKey: ["surface", result],
    enabled: result !== null,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    queryFn: ({ signal }) => fetchPacked<SurfaceHead>(`/api/results/${result}/surface`, signal),
  });

const deformationQuery = (result: number, step: number) => ({
  queryKey: ["deformation", result, step],
  staleTime: 60_000,
  gcTime: 60_000,
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    fetchPacked<{ largest: number }>(`/api/results/${result}/deformation?step=${step}`, signal),
});

const valuesQuery = (result: number, reading: ReadingChoice, step: number) => ({
  queryKey: ["values", result, reading, step],
  staleTime: 60_000,
  gcTime: 60_000,
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    fetchPacked<ValuesHead>(`/api/results/${result}/values?${query(readingQuery(reading, step))}`, signal),
});

export function useDeformation(result: number | null, step: number, there: boolean) {
  return useQuery({
    ...deformationQuery(result ?? 0, step),
    enabled: result !== null && there,
    placeholderData: keepPreviousData,
  });
}

export function useValues() {
  const { result, reading, step } = useBench();
  return useQuery({
    ...valuesQuery(result ?? 0, reading!, step),
    enabled: result !== null && reading !== null,
    placeholderData: keepPreviousData,
  });
}

/** Fetches a step before it is shown, so that playing does not stutter; settles when all of it is here. */
export function usePrefetch() {
  const client = useQueryClient();
  return (result: number, reading: ReadingChoice, step: number, deformed: boolean) =>
    Promise.all([
      client.prefetchQuery(valuesQuery(result, reading, step)),
      deformed ? client.prefetchQuery(deformationQuery(result, step)) : Promise.resolve(),
    ]);
}

export function useRange(enabled: boolean) {
  const { result, reading } = useBench();
  return useQuery({
    queryKey: ["range", result, reading],
    enabled: enabled && result !== null && reading !== null,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/range", {
          params: { path: { result: result! }, query: readingQuery(reading!, 0) },
          signal,
        }),
      ),
  });
}

export function useAveragings(enabled: boolean) {
  const { result, reading, step } = useBench();
  return useQuery({
    queryKey: ["averagings", result, reading, step],
    enabled: enabled && result !== null && reading !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/averagings", {
          params: { path: { result: result! }, query: readingQuery(reading!, step) },
          signal,
        }),
      ),
  });
}

export function useFlags(result: number | null) {
  return useQuery({
    queryKey: ["flags", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/flags", { params: { query: { result: result! } }, signal })),
  });
}

export function useMeeting(node: number) {
  const { result, reading, step } = useBench();
  return useQuery({
    queryKey: ["meeting", result, node, reading, step],
    enabled: result !== null && reading !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/nodes/{node}", {
          params: { path: { result: result!, node }, query: readingQuery(reading!, step) },
          signal,
        }),
      ),
  });
}

export function useNodePosition(result: number | null, node: number, step: number) {
  return useQuery({
    queryKey: ["position", result, node, step],
    enabled: result !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/nodes/{node}/position", {
          params: { path: { result: result!, node }, query: { step } },
          signal,
        }),
      ),
  });
}

export const probe = (
  result: number,
  reading: ReadingChoice,
  step: number,
  face: number,
  s: number,
  t: number,
  signal: AbortSignal,
) =>
  ask(
    api.GET("/api/results/{result}/probe", {
      params: { path: { result }, query: { ...readingQuery(reading, step), face, s, t } },
      signal,
    }),
  );

export const usePairings = (result: number | null) =>
  useQuery({
    queryKey: ["pairings", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/pairings", { params: { query: { result: result! } }, signal })),
  });

export const useTests = () =>
  useQuery({ queryKey: ["tests"], queryFn: ({ signal }) => ask(api.GET("/api/tests", { signal })) });

export const useMatch = (pairing: number | null, test: number | null) =>
  useQuery({
    queryKey: ["match", pairing, test],
    enabled: pairing !== null && test !== null,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/matches", { params: { query: { pairing: pairing!, test: test! } }, signal })),
  });

/** A record in the units of a curve, to be drawn on it. */
export const useOverlay = (pairing: number | null, test: number | null) =>
  useQuery({
    queryKey: ["overlay", pairing, test],
    enabled: pairing !== null && test !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/overlays", { params: { query: { pairing: pairing!, test: test! } }, signal })),
  });

export const useExhibits = () =>
  useQuery({ queryKey: ["exhibits"], queryFn: ({ signal }) => ask(api.GET("/api/exhibits", { signal })) });

/** A change to the review: everything the analyst made is asked for again afterwards. */
export function useChange<In, Out>(work: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: work,
    onSuccess: () =>
      Promise.all(
        ["review", "flags", "pairings", "tests", "match", "overlay", "exhibits"].map((k) =>
          client.invalidateQueries({ queryKey: [k] }),
        ),
      ),
  });
}

export const saveTest = (id: number, use: TestUse) =>
  ask(api.PUT("/api/tests/{test}", { params: { path: { test: id } }, body: use }));

export { readingQuery };
