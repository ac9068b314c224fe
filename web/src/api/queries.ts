import { keepPreviousData, type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useFilming } from "../bench/filming";
import { Stopped } from "../bench/problem";
import { useReach } from "../bench/reach";
import { readingQuery } from "../bench/readingChoice";
import { type BenchState, type Look, panes, type ReadingChoice, useBench, usePane } from "../bench/store";
import { fetchPacked, query } from "./binary";
import { api, ask, type Job, Problem, type ValuesHead } from "./client";
import { contentsQuery, useContents } from "./contents";

export { contentsQuery, useContents };

export interface SurfaceHead {
  centre: [number, number, number];
  /** Positions count from here: single precision is enough for them wherever the model lies. */
  origin: [number, number, number];
  radius: number;
  faces: number;
  planar: boolean;
  /** Triangles before this one belong to parts that are not seen through. */
  opaque: number;
}

export interface ArrowsHead {
  /** Points count from here. */
  origin: [number, number, number];
  kind: "vector" | "cross";
  field: string;
  unit: string;
  longest: number;
  count: number;
  spacing: number;
  asked_spacing: number;
  at: "nodes" | "faces" | "sets";
  /** Of arrows of sets: each set with the size of its resultant. */
  names: [string, number][];
}

/** What the service must know of a look; the rest is drawn here. */
export const lookQuery = (look: Look) => ({
  detail: look.detail,
  hidden: look.hidden.join(","),
  translucent: look.translucent.join(","),
  every: look.style === "inside",
  apart: look.apart,
  solid: look.solid,
  turned: look.turned,
});

const pause = (ms: number) => new Promise((r) => window.setTimeout(r, ms));

/** Follows a job to its end, showing in its pane how far it is; stopped when nobody waits any more, or by the analyst. */
async function finished(started: Job, pane: number, signal: AbortSignal): Promise<void> {
  let job = started;
  let stopped = false;
  const stop = () => {
    stopped = true;
    void api.DELETE("/api/jobs/{job}", { params: { path: { job: job.id } } });
  };
  signal.addEventListener("abort", stop);
  try {
    // Who has stopped it does not wait for the service to notice.
    while (job.state === "running" && !stopped) {
      panes.set(pane, { work: { share: job.share, text: job.text, stop } });
      await pause(120);
      if (stopped) break;
      job = await ask(api.GET("/api/jobs/{job}", { params: { path: { job: job.id } } }));
    }
  } finally {
    signal.removeEventListener("abort", stop);
    panes.set(pane, { work: null });
  }
  if (job.state === "stopped" || stopped) throw new Stopped();
  if (job.state !== "done") throw new Problem(job.error ?? "It failed.", job.hint ?? "");
}

export function useReview() {
  const gone = useReach((s) => s.gone);
  return useQuery({
    queryKey: ["review"],
    queryFn: ({ signal }) => ask(api.GET("/api/review", { signal })),
    // While the service does not answer it is asked until it does.
    refetchInterval: gone ? 2000 : false,
  });
}

/** What a pane looks at: all that the drawing of a model and of a reading on it is asked by. */
export interface InView {
  pane: number;
  result: number | null;
  reading: ReadingChoice | null;
  step: number;
  look: Look;
  weigh: "area" | "volume";
}

export const inViewOf = (pane: number, { result, reading, step, look, key }: BenchState): InView => ({
  pane,
  result,
  reading,
  step,
  look,
  weigh: key.weigh,
});

/** What the pane of a component looks at. */
export function useInView(): InView {
  const { index } = usePane();
  return useBench((s) => inViewOf(index, s));
}

/** The step whose mesh is drawn: the first that has it, so that a surface is asked for once a mesh. */
const meshStep = (meshes: number[] | undefined, step: number) => meshes?.[step] ?? 0;

/** What is drawn of a model: its values and its shape must be of the same. */
const surfaceAsked = ({ step, look }: InView, meshes: number[] | undefined) =>
  query({ step: meshStep(meshes, step), ...lookQuery(look) });

/** Which surface values belong to: values of another must not be drawn on it. */
const surfaceName = (view: InView, meshes: number[] | undefined) => `${view.result} ${surfaceAsked(view, meshes)}`;

export function useSurface(view: InView) {
  const meshes = useContents(view.result).data?.meshes;
  const asked = surfaceAsked(view, meshes);
  const of = surfaceName(view, meshes);
  const found = useQuery({
    queryKey: ["surface", view.result, asked],
    enabled: view.result !== null,
    staleTime: 60_000,
    gcTime: 60_000,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) => ({
      ...(await fetchPacked<SurfaceHead>(`/api/results/${view.result}/surface?${asked}`, signal)),
      of,
    }),
  });
  return { ...found, fits: found.data?.of === of };
}

const deformationQuery = (view: InView, meshes: number[] | undefined) => ({
  // What it is drawn on is part of it: which mesh a step has is known when the contents are.
  queryKey: ["deformation", view.result, view.step, view.reading?.phase, surfaceName(view, meshes)],
  staleTime: 60_000,
  gcTime: 60_000,
  queryFn: async ({ signal }: { signal: AbortSignal }) => ({
    ...(await fetchPacked<{ largest: number }>(
      `/api/results/${view.result}/deformation?${query({ step: view.step, phase: view.reading?.phase ?? "", ...lookQuery(view.look) })}`,
      signal,
    )),
    of: surfaceName(view, meshes),
  }),
});

export const valuesQuery = (view: InView, meshes: number[] | undefined) => {
  const { result, reading, step, look, weigh, pane } = view;
  return {
    queryKey: [
      "values",
      result,
      reading,
      reading && reading.over !== "step" && reading.span !== "so-far" && !meshes?.length ? null : step,
      surfaceName(view, meshes),
      weigh,
    ],
    staleTime: 60_000,
    gcTime: 60_000,
    retry: false,
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      const asked = { ...readingQuery(reading!, step), ...lookQuery(look), weigh };
      const found = await fetchPacked<ValuesHead>(`/api/results/${result}/values?${query(asked)}`, signal, (job) =>
        finished(job, pane, signal),
      );
      return { ...found, of: surfaceName(view, meshes) };
    },
  };
};

export function useDeformation(view: InView, there: boolean) {
  const meshes = useContents(view.result).data?.meshes;
  return useQuery({
    ...deformationQuery(view, meshes),
    // Before there is a reading the step is not settled either.
    enabled: view.result !== null && there && view.reading !== null,
    placeholderData: keepPreviousData,
  });
}

export function useValues() {
  const view = useInView();
  const meshes = useContents(view.result).data?.meshes;
  return useQuery({
    ...valuesQuery(view, meshes),
    enabled: view.result !== null && view.reading !== null,
    placeholderData: keepPreviousData,
  });
}

/** The reading line: the words of the reading, what each can be, and why not. */
export function useLine() {
  const { result, reading, step } = useBench("result", "reading", "step");
  const filming = useFilming((s) => s.on);
  return useQuery({
    queryKey: ["line", result, reading, step],
    enabled: !filming && result !== null && reading !== null,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/line", {
          params: { path: { result: result! }, query: readingQuery(reading!, step) },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Fetches a step before it is shown, so that playing does not stutter; settles when all of it is here. */
export function usePrefetch() {
  const client = useQueryClient();
  const pane = usePane();
  const meshes = useContents(useBench((s) => s.result)).data?.meshes;
  return (step: number, deformed: boolean, reading?: ReadingChoice) => {
    const now = inViewOf(pane.index, pane.getState());
    const view = { ...now, step, reading: reading ?? now.reading };
    return Promise.all([
      client.prefetchQuery(valuesQuery(view, meshes)),
      deformed ? client.prefetchQuery(deformationQuery(view, meshes)) : Promise.resolve(),
    ]);
  };
}

/** Lowest and highest of a reading over all steps. pane: where the work is told of. */
export const rangeQuery = (enabled: boolean, result: number | null, reading: ReadingChoice | null, pane: number) => ({
  queryKey: ["range", result, reading],
  enabled: enabled && result !== null && reading !== null,
  staleTime: Number.POSITIVE_INFINITY,
  retry: false,
  queryFn: async ({ signal }: { signal: AbortSignal }) => {
    const asked = { params: { path: { result: result! }, query: readingQuery(reading!, 0) }, signal };
    await finished(await ask(api.POST("/api/results/{result}/range", asked)), pane, signal);
    return ask(api.GET("/api/results/{result}/range", asked));
  },
});

export function useRange(enabled: boolean) {
  const { result, reading } = useBench("result", "reading");
  const { index } = usePane();
  return useQuery(rangeQuery(enabled, result, reading, index));
}

export function useAveragings(enabled: boolean) {
  const { result, reading, step } = useBench("result", "reading", "step");
  const filming = useFilming((s) => s.on);
  return useQuery({
    queryKey: ["averagings", result, reading, step],
    enabled: enabled && !filming && result !== null && reading !== null,
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

/** The reading at a place of a drawn face. */
export const probe = (
  { result, reading, step, look }: InView,
  face: number,
  s: number,
  t: number,
  signal: AbortSignal,
) =>
  ask(
    api.GET("/api/results/{result}/probe", {
      params: {
        path: { result: result! },
        query: { ...readingQuery(reading!, step), ...lookQuery(look), weigh: "area", face, s, t },
      },
      signal,
    }),
  );

export const usePairings = (result: number | null) =>
  useQuery({
    queryKey: ["pairings", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/pairings", { params: { query: { result: result! } }, signal })),
  });

/** The curve in view, where it can be drawn. */
export function useCurve() {
  const { result, pairing } = useBench("result", "pairing");
  return usePairings(result).data?.find((p) => p.id === pairing && !p.error);
}

export const useTests = () =>
  useQuery({ queryKey: ["tests"], queryFn: ({ signal }) => ask(api.GET("/api/tests", { signal })) });

/** The cycles that are looked at alone, as questions name them; '' all. */
export const useCycles = () => useBench((s) => s.cycles.join(","));

export function useMatch(pairing: number | null, test: number | null) {
  const cycles = useCycles();
  return useQuery({
    queryKey: ["match", pairing, test, cycles],
    enabled: pairing !== null && test !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/matches", { params: { query: { pairing: pairing!, test: test!, cycles } }, signal })),
  });
}

/** A record in the units of a curve, to be drawn on it. */
export function useOverlay(pairing: number | null, test: number | null) {
  const cycles = useCycles();
  return useQuery({
    queryKey: ["overlay", pairing, test, cycles],
    enabled: pairing !== null && test !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/overlays", { params: { query: { pairing: pairing!, test: test!, cycles } }, signal })),
  });
}

export const useExhibits = () =>
  useQuery({ queryKey: ["exhibits"], queryFn: ({ signal }) => ask(api.GET("/api/exhibits", { signal })) });

export const useRemoved = (wanted = true) =>
  useQuery({
    queryKey: ["removed"],
    enabled: wanted,
    queryFn: ({ signal }) => ask(api.GET("/api/removed", { signal })),
  });

export const useNamed = (result: number | null) =>
  useQuery({
    queryKey: ["named", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/named", { params: { query: { result: result! } }, signal })),
  });

/** What only has to be drawn anew comes when it comes. An answer that is on its way may be from before the change: it is given up, or
 * it would be taken for the new one. */
export function drawnAnew(client: QueryClient): void {
  for (const k of ["asked", "cut faces", "match", "overlay"])
    void client.cancelQueries({ queryKey: [k] }).then(() => client.invalidateQueries({ queryKey: [k] }));
}

/**
 * A change to the review: everything the analyst made is asked for again afterwards. One change waits for the one before and for
 * what that left, so that each is made of what is there.
 */
export function useChange<In, Out>(work: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: "changes" },
    mutationFn: work,
    onSuccess: () => {
      drawnAnew(client);
      const lists = [
        "review",
        "contents",
        "line",
        "flags",
        "views",
        "named",
        "pairings",
        "tests",
        "exhibits",
        "kept",
        "removed",
      ];
      return Promise.all(lists.map((k) => client.invalidateQueries({ queryKey: [k] })));
    },
  });
}
