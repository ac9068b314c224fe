import { useEffect } from "react";
import { create } from "zustand";

/** Whether something lies over the view: what is beneath is then out of reach of keyboard and pointer. */
export const useCovered = create<{ covered: boolean }>(() => ({ covered: false }));

/** Lies over the view while it holds. */
export function useCovering(covers: boolean): void {
  useEffect(() => {
    useCovered.setState({ covered: covers });
    return () => useCovered.setState({ covered: false });
  }, [covers]);
}
