import { useQuery } from "@tanstack/react-query";
import { api, ask } from "./client";
import { useChange } from "./queries";

/** What can be taken over from another mesh of the same body. */
export type KeptKind = "path" | "gauges" | "flag" | "cut";

/** What other meshes of the body have of a kind and a result has not, and taking one over. */
export function useOfOthers(kind: KeptKind, result: number | null) {
  const asked = useQuery({
    queryKey: ["kept", "elsewhere", kind, result],
    enabled: result !== null,
    retry: false,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/kept/{kind}/elsewhere", { params: { path: { kind }, query: { result: result! } }, signal })),
  });
  const take = useChange((item: number) =>
    ask(api.POST("/api/kept/{item}/here", { params: { path: { item }, query: { result: result! } } })),
  );
  return { list: asked.data ?? [], take };
}
