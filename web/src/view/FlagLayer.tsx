import { X } from "lucide-react";
import { useEffect, useState } from "react";
import type { FlagAnswer } from "../api/client";
import { removeKept } from "../api/kept";
import { useFlagAnswer, useFlags } from "../api/marks";
import { useChange, useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { figure, percent } from "../reading/format";
import { InOtherView } from "./FlagsBeside";
import { partsOf, useFlagCard } from "./flagCard";
import { useView } from "./handle";
import { usePinned } from "./pinned";

/** So many flags stand in whole cards; more of them are small until they are looked at. */
const MOST_WHOLE = 3;

/** The values at a flag in few words: one, or from the lowest to the highest. */
function briefly(entries: FlagAnswer["entries"], unit: string): string {
  const named = entries.find((e) => e.name)?.name;
  if (named) return named;
  const values = entries.map((e) => e.value).filter((v) => v !== null);
  if (!values.length) return "no value";
  const [low, high] = [figure(Math.min(...values)), figure(Math.max(...values))];
  return `${low === high ? low : `${low} to ${high}`} ${unit}`.trim();
}

/** Flags over the view: each stays at its node on the shape as drawn. */
export function FlagLayer({ moves }: { moves: boolean }) {
  const result = useBench((s) => s.result);
  const flags = useFlags(result);
  return (
    <div className="flag-layer">
      {(flags.data ?? []).map((flag, i) => (
        <Flag
          key={flag.id}
          id={flag.id}
          name={flag.name}
          number={i + 1}
          moves={moves}
          small={flags.data!.length > MOST_WHOLE}
        />
      ))}
    </div>
  );
}

interface FlagProps {
  id: number;
  name: string;
  number: number;
  moves: boolean;
  /** A number and its value, until it is pointed at or the keyboard is in it. */
  small: boolean;
}

function Flag({ id, name, number, moves, small }: FlagProps) {
  const [looked, setLooked] = useState(false);
  const view = useView();
  const answer = useFlagAnswer(id);
  const { result, set } = useBench("result", "set");
  const many = (useContents(result).data?.steps.length ?? 0) > 1;
  const [open, setOpen] = useState(false);
  const whole = !small || looked || open;
  const { card, line, dot, place } = useFlagCard(id, number, small && whole);
  const remove = useChange(() => removeKept("flag", id));
  usePinned(answer.data, moves, place);
  const d = answer.data;
  // The card has another size now: it finds its place with the next frame.
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever changes what the card holds
  useEffect(() => view.redraw?.(), [open, d, whole, view]);
  const several = (d?.entries.length ?? 0) > 1;
  const shown = d?.entries.slice(0, 8) ?? [];
  return (
    <>
      <svg className="flag-line" aria-hidden="true">
        <line ref={line} />
        <circle ref={dot} r="4.5" />
      </svg>
      <div
        className={`flag-card ${whole ? "" : "flag-small"} ${small && whole ? "flag-above" : ""}`}
        ref={card}
        data-testid={`flag-${number}`}
        style={{ visibility: "hidden" }}
        onPointerEnter={() => setLooked(true)}
        onPointerLeave={() => setLooked(false)}
        onFocus={() => setLooked(true)}
        onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && setLooked(false)}
      >
        <button
          type="button"
          className="flag-close"
          aria-label={`Remove flag ${number}`}
          onClick={() => remove.mutate(undefined)}
        >
          <X size={13} />
        </button>
        {!whole && (
          <div className="flag-brief">
            <b>{name || number}</b> <span className="fig">{d ? briefly(d.entries, d.unit) : "…"}</span>
          </div>
        )}
        <div hidden={!whole}>
          <b>{name || `Flag ${number}`}</b> · {d?.place ?? "…"}
          {d && <span className="quiet"> · {partsOf(d.entries)}</span>}
        </div>
        {whole && d && (
          <>
            {open && d.other_averaging ? (
              <FlagTable answer={d} />
            ) : (
              <div className="fig flag-values" title={d.sentence}>
                {shown.map((e, i) => (
                  <span
                    key={`${e.element}-${i}`}
                    title={e.element === null ? "node value" : `element ${e.element}, ${e.part}`}
                  >
                    {e.element !== null && <small className="quiet">el. {e.element} </small>}
                    {e.name ?? figure(e.value)}
                  </span>
                ))}
                {d.entries.length > shown.length && <span>+{d.entries.length - shown.length}</span>}
                <span className="unit">{d.unit}</span>
              </div>
            )}
            <InOtherView id={id} />
            {several && d.jump !== null && (
              <div className="quiet">
                jump{" "}
                <span className="fig">
                  {figure(d.jump, 3)} {d.unit}
                </span>
                {d.jump_of_range !== null && <>, {percent(d.jump_of_range, 2)} of the range</>}
              </div>
            )}
            {d.other_averaging && (
              <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
                {open ? "As computed only" : "Compare averaged"}
              </button>
            )}
          </>
        )}
        {whole && d && many && (
          <>
            {d.other_averaging && " · "}
            <button
              type="button"
              className="link"
              title="The reading at this flag at every step, as a plot and a table"
              onClick={() => set({ strata: true, tab: "flag-steps", flagSteps: { only: id, take: "all" } })}
            >
              Over the steps
            </button>
          </>
        )}
        {answer.error && <div className="quiet">{answer.error.message}</div>}
      </div>
    </>
  );
}

/** Two averagings in one table: what each element has, and what is left of it averaged. */
function FlagTable({ answer }: { answer: FlagAnswer }) {
  return (
    <table className="figures flag-compare" data-testid="flag-compare">
      <thead>
        <tr>
          <th>element</th>
          <th>part</th>
          <th title={answer.averaging}>as computed</th>
          <th>{answer.other_averaging.replace(/^averaged /, "")}</th>
        </tr>
      </thead>
      <tbody>
        {answer.entries.slice(0, 12).map((e, i) => (
          <tr key={`${e.element}-${i}`}>
            <td>{e.element}</td>
            <td>{e.part}</td>
            <td>{figure(e.value)}</td>
            <td>{figure(e.other)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
