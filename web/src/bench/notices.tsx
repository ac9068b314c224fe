import { X } from "lucide-react";
import { create } from "zustand";
import { Problem } from "./problem";

interface Notice {
  id: number;
  kind: "problem" | "word";
  title: string;
  hint: string;
}

const useNotices = create<{ list: Notice[] }>(() => ({ list: [] }));
let next = 1;

function add(kind: Notice["kind"], title: string, hint: string, seconds: number): void {
  const id = next++;
  useNotices.setState((s) => ({
    list: [...s.list.filter((n) => n.title !== title), { id, kind, title, hint }].slice(-4),
  }));
  if (seconds) window.setTimeout(() => dismiss(id), 1000 * seconds);
}

const dismiss = (id: number) => useNotices.setState((s) => ({ list: s.list.filter((n) => n.id !== id) }));

/** Tell the analyst what went wrong, why, and what to do. It stays until closed. */
export function tell(error: unknown): void {
  if (error instanceof Problem) add("problem", error.title, error.hint, 0);
  else if (error instanceof Error) add("problem", error.message, "", 0);
}

/** A short word that something was done. */
export const say = (title: string) => add("word", title, "", 4);

export const dismissNewest = (): boolean => {
  const list = useNotices.getState().list;
  if (!list.length) return false;
  dismiss(list[list.length - 1]!.id);
  return true;
};

export function Notices() {
  const list = useNotices((s) => s.list);
  return (
    <div className="notices" aria-live="polite">
      {list.map((n) => (
        <div key={n.id} className={`notice notice-${n.kind}`} role={n.kind === "problem" ? "alert" : "status"}>
          <div>
            <b>{n.title}</b>
            {n.hint && <div>{n.hint}</div>}
          </div>
          <button type="button" aria-label="Close" onClick={() => dismiss(n.id)}>
            <X size={14} />
          </button>
        </div>
      ))}
    </div>
  );
}
