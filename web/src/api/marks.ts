import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { readingQuery } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { fetchPacked, query } from "./binary";
import { api, ask } from "./client";
import { type ArrowsHead, lookQuery } from "./queries";

export function useFlags(result: number | null) {
  return useQuery({
    queryKey: ["flags", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/flags", { params: { query: { result: result! } }, signal })),
  });
}

/** What a flag says of the reading in view. */
export function useFlagAnswer(flag: number) {
  const { reading, step } = useBench("reading", "step");
  return useQuery({
    queryKey: ["answer", flag, reading, step],
    enabled: reading !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/flags/{flag}/answer", {
          params: { path: { flag }, query: readingQuery(reading!, step) },
          signal,
        }),
      ),
  });
}

export function useArrows() {
  const { result, step, look, arrows, reading } = useBench("result", "step", "look", "arrows", "reading");
  const { field, spacing, by } = arrows ?? {};
  // A harmonic's arrows go with the phase of its shape; of anything else there is none to tell.
  const asked = query({ ...lookQuery(look), step, field, spacing, by, phase: reading?.phase || undefined });
  return useQuery({
    queryKey: ["arrows", result, asked],
    enabled: result !== null && arrows !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => fetchPacked<ArrowsHead>(`/api/results/${result}/arrows?${asked}`, signal),
  });
}

export function useMeasured(what: "length" | "angle" | "area" | "volume" | null) {
  const { result, step, look, measuring } = useBench("result", "step", "look", "measuring");
  const { nodes, face, fold, element } = measuring;
  const enough =
    what === "length"
      ? nodes.length >= 2
      : what === "angle"
        ? nodes.length === 3
        : what === "area"
          ? face !== null
          : what === "volume";
  const asked = {
    ...lookQuery(look),
    step,
    what: what ?? "length",
    nodes: what === "length" || what === "angle" ? nodes.join(",") : "",
    face: what === "area" ? (face ?? -1) : -1,
    fold,
    elements: what === "volume" && element !== null ? String(element) : "",
  };
  return useQuery({
    queryKey: ["measure", result, asked],
    enabled: result !== null && what !== null && enough,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/results/{result}/measure", { params: { path: { result: result! }, query: asked }, signal })),
  });
}
