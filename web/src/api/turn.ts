import { useIsFetching, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask } from "./client";

/** How long this page asks for something before it asks whether it waits its turn, and how often then. */
const PATIENCE = 1500;

/** How many heavy questions the service works on before the first of this page's; 0 where nothing waits. */
export function useTurnsBefore(): number {
  const others = useIsFetching({ predicate: (q) => q.queryKey[0] !== "turns" && q.queryKey[0] !== "review" });
  const [long, setLong] = useState(false);
  const asking = others > 0;
  useEffect(() => {
    const timer = window.setTimeout(() => setLong(asking), asking ? PATIENCE : 0);
    return () => window.clearTimeout(timer);
  }, [asking]);
  const waiting = useQuery({
    queryKey: ["turns"],
    enabled: long && asking,
    refetchInterval: PATIENCE,
    gcTime: 0,
    retry: false,
    queryFn: ({ signal }) => ask(api.GET("/api/turns", { signal })),
  });
  return long && asking ? (waiting.data?.before ?? 0) : 0;
}
