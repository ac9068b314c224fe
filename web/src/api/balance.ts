import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useBench } from "../bench/store";
import { useMore } from "./asking";
import { api, ask } from "./client";
import { lookQuery } from "./queries";

export interface Cut {
  origin: string;
  normal: string;
}

export function useBalance(about: string | null, deformed: boolean) {
  const { result, step, reading } = useBench("result", "step", "reading");
  const phase = reading?.phase ?? "";
  return useMore("balance", result === null ? null : { result, step, about, deformed, phase });
}

export function useCut(cut: Cut | null) {
  const { result, step } = useBench("result", "step");
  return useMore("through-plane", result === null || cut === null ? null : { result, step, ...cut });
}

export function useJoint(node: number | null) {
  const { result, step } = useBench("result", "step");
  return useQuery({
    queryKey: ["joint", result, step, node],
    enabled: result !== null && node !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/joints/{node}", {
          params: { path: { result: result!, node: node! }, query: { step } },
          signal,
        }),
      ),
  });
}

export function useDoubts() {
  const { result, step } = useBench("result", "step");
  return useMore("sense", result === null ? null : { result, step });
}

export const useChecks = () => {
  const result = useBench((s) => s.result);
  return useQuery({
    queryKey: ["checks", result],
    enabled: result !== null,
    queryFn: ({ signal }) => ask(api.GET("/api/checks", { params: { query: { result: result! } }, signal })),
  });
};

export const useMembers = (wanted = true) => {
  const { result, step } = useBench("result", "step");
  return useMore("members", result === null || !wanted ? null : { result, step });
};

export function useFaces(face: number | null, fold: number, pressure: number | null) {
  const { result, step, look } = useBench("result", "step", "look");
  return useQuery({
    queryKey: ["faces", result, step, look, face, fold, pressure],
    enabled: result !== null && face !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/face-force", {
          params: {
            path: { result: result! },
            query: { ...lookQuery(look), step, face: face!, fold, pressure: pressure ?? undefined } as never,
          },
          signal,
        }),
      ),
  });
}
