import { X } from "lucide-react";

/** The small cross at the end of a row that takes away what the row is of. */
export function RemoveButton({ what, onRemove }: { what: string; onRemove: () => void }) {
  return (
    <button type="button" className="icon" aria-label={`Remove ${what}`} onClick={onRemove}>
      <X size={13} />
    </button>
  );
}
