import { useBench } from "../bench/store";

/** A bay without a result says what it does and where to begin. */
export function EmptyBay({ label, does }: { label: string; does: string }) {
  const set = useBench((s) => s.set);
  return (
    <div data-testid="empty-bay">
      <p>
        <b>{label}</b> {does}. It needs a result, and none is in this review.
      </p>
      <button type="button" className="btn btn-primary" onClick={() => set({ bay: "intake" })}>
        Take a result in
      </button>
    </div>
  );
}
