import { useQuery } from "@tanstack/react-query";
import type { Formats } from "../bench/dropped";
import { api, ask } from "./client";

const none: Formats = { results: [], beside: [], tables: [], titles: [] };

/** The files the service takes: nothing is known of them until it has said so. */
export function useFormats(): Formats {
  const known = useQuery({
    queryKey: ["formats"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: ({ signal }) => ask(api.GET("/api/formats", { signal })),
  });
  return known.data ?? none;
}
