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
  if (seconds) leaveAfter(id, seconds);
}

/** A notice goes by itself, but not while it is being read: pointed at, or with the keyboard in it. */
function leaveAfter(id: number, seconds: number): void {
  window.setTimeout(() => {
    const read = document.querySelector(`[data-notice="${id}"]:is(:hover, :focus-within)`);
    if (read) leaveAfter(id, seconds);
    else dismiss(id);
  }, 1000 * seconds);
}

/** How long what went wrong stands, in seconds: long enough to be read twice. */
const PROBLEM = 30;

const dismiss = (id: number) => useNotices.setState((s) => ({ list: s.list.filter((n) => n.id !== id) }));

/** Tell the analyst what went wrong, why, and what to do. */
export function tell(error: unknown): void {
  if (error instanceof Problem) add("problem", error.title, error.hint, PROBLEM);
  else if (error instanceof Error) add("problem", error.message, "", PROBLEM);
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
        <div
          key={n.id}
          data-notice={n.id}
          className={`notice notice-${n.kind}`}
          role={n.kind === "problem" ? "alert" : "status"}
        >
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
