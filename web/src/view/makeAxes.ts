import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, ask, type Contents, type Schemas } from "../api/client";
import { lookQuery, useChange } from "../api/queries";
import { say } from "../bench/notices";
import { usePane } from "../bench/store";

type AxesIn = Partial<Schemas["AxesIn"]>;

/** Makes axes, reads in them, and, where a direction was asked for, reads that direction. */
export function useAxes(): { make: (words: AxesIn, done?: () => void) => void; pending: boolean } {
  const pane = usePane();
  const client = useQueryClient();
  const change = useChange(async (words: AxesIn) => {
    const result = pane.getState().result!;
    return ask(
      api.PUT("/api/results/{result}/axes", { params: { path: { result } }, body: words as Schemas["AxesIn"] }),
    );
  });
  const { mutate, isPending } = change;
  const make = useCallback(
    (words: AxesIn, done?: () => void) =>
      mutate(words, {
        onSuccess: async (made) => {
          const { result, reading, setReading, set } = pane.getState();
          await client.invalidateQueries({ queryKey: ["contents", result] });
          const contents = client.getQueryData<Contents>(["contents", result]);
          const field = contents?.fields.find((f) => f.name === reading?.field);
          const along = field?.measures.find((m) => m.direction !== null && m.direction === made.direction);
          setReading(along ? { axes: made.name, measure: along.name, of: "value" } : { axes: made.name });
          set({ picking: "flag", making: null, picks: [] });
          say(`Axes '${made.name}' made.`);
          done?.();
        },
      }),
    [mutate, pane, client],
  );
  return { make, pending: isPending };
}

/** What a click on a face does while axes are being made from one. */
export function useMakingAxes(): (face: number) => void {
  const pane = usePane();
  const { make } = useAxes();
  return useCallback(
    (face) => {
      const { look, making } = pane.getState();
      make({ how: "face", face, look: lookQuery(look), want: making?.want ?? "" });
    },
    [make, pane],
  );
}
