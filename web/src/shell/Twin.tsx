import { useQueryClient } from "@tanstack/react-query";
import { Link2, Unlink2, X } from "lucide-react";
import { useContents, useReview, useValues } from "../api/queries";
import { tell } from "../bench/notices";
import { panes, type Ties, useBench, useIsActive, useOtherBench, usePane } from "../bench/store";
import { turnTo, useSameMoment } from "./twin";

/** The head of a pane of two: which result, which reading, at which moment; the one that is worked in is marked by a word too. */
export function PaneHead() {
  const pane = usePane();
  const client = useQueryClient();
  const { result, step } = useBench("result", "step");
  const other = useOtherBench((s) => [s.result, s.step] as const);
  const review = useReview();
  const contents = useContents(result);
  const theirs = useContents(other?.[0] ?? null);
  const head = useValues().data?.head;
  const active = useIsActive();
  const same = useSameMoment();
  const name = contents.data?.name ?? "";
  const [mine, others] = [contents.data?.steps[step]?.label, theirs.data?.steps[other?.[1] ?? 0]?.label];
  return (
    <div className={`pane-head ${active ? "on" : ""}`} data-testid="pane-head" data-active={active}>
      <span className="pane-mark" aria-hidden="true">
        {active ? "▸" : ""}
      </span>
      <select
        className="pane-result"
        aria-label={`Result of the ${pane.index === 0 ? "first" : "second"} view`}
        title={name}
        value={result ?? ""}
        onChange={(e) => {
          panes.activate(pane.index);
          turnTo(client, pane.index, Number(e.target.value)).catch(tell);
        }}
      >
        {(review.data?.results ?? []).map((r) => (
          <option key={r.id} value={r.id}>
            {r.name}
          </option>
        ))}
      </select>
      <span className="pane-words" title={head?.sentence}>
        {head?.sentence ?? "Reading …"}
      </span>
      {active && <span className="visually-hidden">worked in</span>}
      {same === false && mine && others && (
        <span className="pane-apart" title="The two views show different moments">
          {mine} beside {others}
        </span>
      )}
      <button
        type="button"
        className="icon"
        aria-label={`Close the view of ${name}`}
        title="Close this view (T)"
        onClick={() => panes.close(pane.index)}
      >
        <X size={13} />
      </button>
    </div>
  );
}

const words: { tie: keyof Ties; label: string; title: string }[] = [
  { tie: "camera", label: "camera", title: "Turned and zoomed together" },
  { tie: "step", label: "step", title: "At the same time, load factor or frequency" },
  { tie: "reading", label: "reading", title: "The same reading of both results" },
  { tie: "limits", label: "limits", title: "One key for both" },
  { tie: "parts", label: "parts", title: "The same parts shown, drawn the same way" },
  { tie: "scale", label: "scale", title: "Deformation by the same factor" },
];

/** Where two panes meet: a tie for each thing that moves together, closed or open. */
export function Seam() {
  const { ties, set } = useBench("ties", "set");
  return (
    <fieldset className="seam" aria-label="What the two views do together">
      {words.map(({ tie, label, title }) => (
        <button
          type="button"
          key={tie}
          className={ties[tie] ? "on" : ""}
          aria-pressed={ties[tie]}
          title={`${title}. ${ties[tie] ? "A click cuts this tie." : "Each by itself: a click ties them."}`}
          onClick={() => set({ ties: { ...ties, [tie]: !ties[tie] } })}
        >
          {ties[tie] ? <Link2 size={12} /> : <Unlink2 size={12} />}
          <span>{label}</span>
        </button>
      ))}
    </fieldset>
  );
}
