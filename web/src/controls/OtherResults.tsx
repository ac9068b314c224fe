import type { ReactNode } from "react";
import { useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { strokes } from "../theme/strokes";
import { Refused } from "./Refused";
import { Section } from "./Section";
import { Stroke } from "./Stroke";

/** What another result has of the same, and how far it agrees with the one in view; or why it has nothing. */
interface OfOther {
  id: number;
  result: string;
  error: string;
  verdict: string;
  state: string;
  notes?: string[];
}

interface Props<T extends OfOther> {
  /** What is drawn of them. */
  what: string;
  /** The tab of the strata where they are drawn. */
  tab: string;
  /** Whether any is asked for, what came of it, and why nothing did. */
  asked: boolean;
  rows: T[] | undefined;
  error: Error | null;
  said: (row: T) => string;
  /** Where it leaves. */
  children: ReactNode;
}

/** The same of other results, on the same plot, and how far each agrees with the one in view. */
export function OtherResults<T extends OfOther>({ what, tab, asked, rows, error, said, children }: Props<T>) {
  const { result, also, set } = useBench("result", "also", "set");
  const review = useReview();
  const others = (review.data?.results ?? []).filter((r) => r.id !== result);
  if (!others.length) return null;
  const toggle = (id: number) =>
    set({ also: also.includes(id) ? also.filter((a) => a !== id) : [...also, id], strata: true, tab });
  return (
    <Section
      name="other results"
      className="section"
      open={asked}
      summary={
        <>
          The same of other results{" "}
          {asked && <span className="fig">{others.filter((r) => also.includes(r.id)).length}</span>}
        </>
      }
    >
      <fieldset className="tick-list" aria-label={`Results the ${what} is drawn of`}>
        {others.map((r) => (
          <label key={r.id}>
            <input type="checkbox" checked={also.includes(r.id)} onChange={() => toggle(r.id)} />
            <span>{r.name}</span>
          </label>
        ))}
      </fieldset>
      {asked && error && <Refused error={error} />}
      {asked && !error && !rows && <div className="quiet">The others are asked …</div>}
      {(asked ? (rows ?? []) : []).map((row, i) => (
        <div key={row.id} data-testid={`${what}-of`}>
          <div className="row-line small-line">
            <b>
              <Stroke colour={strokes[(i + 1) % strokes.length]!} dashed /> {row.result}
            </b>
          </div>
          {row.error ? (
            <div className="caveat caveat-in">{row.error}</div>
          ) : (
            <>
              <div className={`verdict verdict-${row.state}`}>{row.verdict}</div>
              <div className="small-line quiet">{said(row)}</div>
              {row.notes?.map((note) => (
                <div className="caveat caveat-in" key={note}>
                  {note}
                </div>
              ))}
            </>
          )}
        </div>
      ))}
      {asked && rows && children}
    </Section>
  );
}
