import type { QueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { create } from "zustand";
import { Problem, Stopped } from "./problem";
import { panes } from "./store";

interface Notice {
  id: number;
  kind: "problem" | "word";
  title: string;
  hint: string;
  /** What it is about: it goes with that. */
  about: string;
}

const useNotices = create<{ list: Notice[] }>(() => ({ list: [] }));
let next = 1;

function add(kind: Notice["kind"], title: string, hint: string, seconds: number, about = ""): number {
  const id = next++;
  useNotices.setState((s) => ({
    list: [...s.list.filter((n) => n.title !== title), { id, kind, title, hint, about }].slice(-4),
  }));
  leaveAfter(id, seconds);
  return id;
}

/** A notice goes by itself, but not while it is pointed at or the keyboard is in it. */
function leaveAfter(id: number, seconds: number): void {
  window.setTimeout(() => {
    const read = document.querySelector(`[data-notice="${id}"]:is(:hover, :focus-within)`);
    if (read) leaveAfter(id, seconds);
    else dismiss(id);
  }, 1000 * seconds);
}

/** How long what went wrong stands, in seconds: long enough to be read twice. */
const PROBLEM = 30;

export const dismiss = (id: number) => useNotices.setState((s) => ({ list: s.list.filter((n) => n.id !== id) }));

/** What goes with a result or reading that is left, and with a question nobody asks any more. */
const leave = (about: (about: string) => boolean) => {
  const { list } = useNotices.getState();
  if (list.some((n) => n.about && about(n.about)))
    useNotices.setState({ list: list.filter((n) => !n.about || !about(n.about)) });
};

const IN_VIEW = "in view";

/** Tell the analyst what went wrong, why, and what to do; what they did themselves is no problem. about: the question that failed. */
export function tell(error: unknown, about = ""): void {
  if (error instanceof Stopped) say(error.title);
  else if (error instanceof Problem) add("problem", error.title, error.hint, PROBLEM, about);
  else if (error instanceof Error) add("problem", error.message, "", PROBLEM, about);
}

/** The same of what is in view: it goes when another result or reading comes. */
export const tellOfView = (error: Error) => tell(error, IN_VIEW);

/** A short word that something was done; what takes it away. */
export const say = (title: string): (() => void) => {
  const id = add("word", title, "", 4);
  return () => dismiss(id);
};

/** Lets notices go with what they are about. */
export function dismissWithWhatTheyAreAbout(client: QueryClient): void {
  panes.watch((_, now, before) => {
    if (now.result !== before.result || now.reading !== before.reading) leave((about) => about === IN_VIEW);
  });
  client.getQueryCache().subscribe(({ query, type }) => {
    if (type !== "updated" && type !== "removed" && type !== "observerRemoved") return;
    const over = query.state.status === "success" || !query.getObserversCount();
    if (over) leave((about) => about === query.queryHash);
  });
}

export const dismissNewest = (): boolean => {
  const list = useNotices.getState().list;
  if (!list.length) return false;
  dismiss(list[list.length - 1]!.id);
  return true;
};

/** Over the model's upper left, where a click goes through them: nothing one works with lies under them unreachable. */
export function Notices() {
  const list = useNotices((s) => s.list);
  const of = (kind: Notice["kind"]) => list.filter((n) => n.kind === kind);
  return (
    <div className="notices">
      {of("problem").map((n) => (
        <One key={n.id} notice={n} />
      ))}
      {/* It stands there before there is anything to say, so that what comes into it is heard. */}
      <div className="notices-words" aria-live="polite">
        {of("word").map((n) => (
          <One key={n.id} notice={n} />
        ))}
      </div>
    </div>
  );
}

function One({ notice }: { notice: Notice }) {
  return (
    <div
      data-notice={notice.id}
      className={`notice notice-${notice.kind}`}
      role={notice.kind === "problem" ? "alert" : undefined}
    >
      <div>
        <b>{notice.title}</b>
        {notice.hint && <div>{notice.hint}</div>}
      </div>
      <button type="button" aria-label="Close" title="Close (Esc)" onClick={() => dismiss(notice.id)}>
        <X size={14} />
      </button>
    </div>
  );
}
