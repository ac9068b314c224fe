import { useIsFetching, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask } from "./client";
import { useSending } from "./sending";

/** How long this page asks for something before it asks how far that is, and how often then. */
const PATIENCE = 1500;

/** What the service works on before the first of this page's questions, and how far a file of its is; null while nothing takes long. */
export function useTurn(): { before: number; far: string } | null {
  const others = useIsFetching({ predicate: (q) => q.queryKey[0] !== "turns" && q.queryKey[0] !== "review" });
  const sending = useSending((s) => s.sending !== null);
  const [long, setLong] = useState(false);
  const asking = others > 0 || sending;
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
  return long && asking ? (waiting.data ?? null) : null;
}
