import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useBench } from "../bench/store";
import { api, ask } from "./client";
import { lookQuery } from "./queries";

export interface Cut {
  origin: string;
  normal: string;
}

export function useBalance(about: string | null, deformed: boolean) {
  const { result, step } = useBench("result", "step");
  return useQuery({
    queryKey: ["balance", result, step, about, deformed],
    enabled: result !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/balance", {
          params: { path: { result: result! }, query: { step, about: about ?? undefined, deformed } },
          signal,
        }),
      ),
  });
}

export function useCut(cut: Cut | null) {
  const { result, step } = useBench("result", "step");
  return useQuery({
    queryKey: ["cut", result, step, cut],
    enabled: result !== null && cut !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/api/results/{result}/cut", {
          params: { path: { result: result! }, query: { step, ...cut! } },
          signal,
        }),
      ),
  });
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
  return useQuery({
    queryKey: ["doubts", result, step],
    enabled: result !== null,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/results/{result}/doubts", { params: { path: { result: result! }, query: { step } }, signal })),
  });
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
  return useQuery({
    queryKey: ["members", result, step],
    enabled: result !== null && wanted,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/results/{result}/members", { params: { path: { result: result! }, query: { step } }, signal })),
  });
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
