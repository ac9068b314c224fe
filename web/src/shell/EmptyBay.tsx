import type { Bay } from "../bench/store";
import { useBench } from "../bench/store";

const does: Partial<Record<Bay, string>> = {
  balance: "adds up loads and reactions, and asks whether the model makes sense",
  field: "shows a reading on the model: averaging, key, parts, cuts, marks",
  path: "reads values along lines and at gauge points",
  trace: "makes curves over the steps and holds them against test records",
  strength: "works out failure indices of plies, stacks, and utilisation of metals",
};

/** A bay without a result says what it does and where to begin. */
export function EmptyBay({ bay, label }: { bay: Bay; label: string }) {
  const set = useBench((s) => s.set);
  return (
    <div data-testid="empty-bay">
      <p>
        <b>{label}</b> {does[bay]}. It needs a result, and none is in this review.
      </p>
      <button type="button" className="btn btn-primary" onClick={() => set({ bay: "intake" })}>
        Take a result in
      </button>
    </div>
  );
}
