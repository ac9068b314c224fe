import { useCallback, useState } from "react";
import { useBench } from "../bench/store";

const kept = new Map<string, unknown>();

/** What is being typed in a form of the result in view: it is there still when one comes back from another tab or bay. */
export function useTyped<T>(name: string, initial: T): [T, (value: T) => void] {
  const result = useBench((s) => s.result);
  const key = `${result} ${name}`;
  const [, draw] = useState(0);
  const set = useCallback(
    (value: T) => {
      kept.set(key, value);
      draw((n) => n + 1);
    },
    [key],
  );
  return [kept.has(key) ? (kept.get(key) as T) : initial, set];
}
