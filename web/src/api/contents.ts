import { useQuery } from "@tanstack/react-query";
import { api, ask } from "./client";

// How often it is looked for what is found behind a result that is in, in milliseconds: it is there within seconds.
const LOOK_AGAIN = 1000;

export const contentsQuery = (result: number | null) => ({
  queryKey: ["contents", result],
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    ask(api.GET("/api/results/{result}", { params: { path: { result: result! } }, signal })),
});

/** What is inside a result; asked again while its loads are still looked for. */
export function useContents(result: number | null) {
  const found = useQuery({ ...contentsQuery(result), enabled: result !== null });
  // By an observer of its own: the first is asked again, as all are, when a service that was gone is back.
  useQuery({ ...contentsQuery(result), enabled: found.data?.loads_sought ?? false, refetchInterval: LOOK_AGAIN });
  return found;
}
