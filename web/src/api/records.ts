import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, Problem, type TestRecord, type TestUse } from "./client";
import { drawnAnew } from "./queries";

/** Whether a record is held against a curve: one that names no curve is held against whichever is in view, a response over frequency
 * against none. */
export const belongs = (record: TestRecord, pairing: number | null) =>
  !record.use.form && (record.use.pairing == null || record.use.pairing === pairing);

/** Says anew how a record is understood. One change waits for the one before, and builds on what that left. */
export function useTestUse(id: number) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: "changes" },
    mutationFn: (change: (use: TestUse) => TestUse) => {
      const known = client.getQueryData<TestRecord[]>(["tests"])?.find((t) => t.id === id);
      if (!known) throw new Problem("That record is not here any more.", "Choose another.");
      return ask(api.PUT("/api/tests/{test}", { params: { path: { test: id } }, body: change(known.use) }));
    },
    onSuccess: () => {
      drawnAnew(client);
      return Promise.all(["review", "tests"].map((k) => client.invalidateQueries({ queryKey: [k] })));
    },
  });
}
