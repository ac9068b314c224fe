import { useEffect } from "react";
import { useQuestion, type Words } from "../api/asking";
import { useFlags } from "../api/marks";
import { told } from "../bench/readingChoice";
import { type Pane, useBench, useOtherBench } from "../bench/store";
import { figure } from "../reading/format";
import { useFlagCard } from "./flagCard";
import { useView } from "./handle";
import { usePinned } from "./pinned";

type Other = Pick<Pane, "result" | "reading" | "step">;

/** Flags of the result in the other pane, each at the same material point of this one: what both have there, and the difference. */
export function FlagsBeside({ moves }: { moves: boolean }) {
  const result = useBench((s) => s.result);
  const [theirs, reading, step] = useOtherBench((s) => [s.result, s.reading, s.step] as const) ?? [null, null, 0];
  const flags = useFlags(theirs === result ? null : theirs);
  if (theirs === null || theirs === result || !reading) return null;
  return (
    <div className="flag-layer flags-beside">
      {(flags.data ?? []).map((flag, i) => (
        <FlagBeside key={flag.id} id={flag.id} number={i + 1} moves={moves} other={{ result: theirs, reading, step }} />
      ))}
    </div>
  );
}

const range = (pair: number[] | null) => {
  if (!pair) return "–";
  const [low, high] = pair.map((v) => figure(v));
  return low === high ? low : `${low} … ${high}`;
};

/** What this pane's reading and another one say at a flag, and this less that. */
function useBeside(id: number, other: Other | null) {
  const { result, reading, step } = useBench("result", "reading", "step");
  const words =
    reading && other?.reading
      ? { result, ...told(reading), step, flag: id, beside: { ...told(other.reading), step: other.step } }
      : null;
  return useQuestion("flag-beside", words as Words<"flag-beside"> | null);
}

type More = NonNullable<NonNullable<ReturnType<typeof useBeside>["data"]>["more"]>;

/** Of each side what is there, what is here, and the difference. */
function Sides({ more, there }: { more: More; there: string }) {
  return (
    <table className="figures flag-compare">
      {more.sides.map((s) => (
        <tbody key={s.part} data-part={s.part}>
          {(
            [
              [there, s.flag, more.flag_unit],
              ["here", s.here, more.here_unit],
              ["difference", s.difference, more.flag_unit],
            ] as const
          ).map(([word, pair, unit], i) => (
            <tr key={word}>
              <td>{i === 0 && more.sides.length > 1 ? s.part : ""}</td>
              <td>{word}</td>
              <td>
                {range(pair)} <span className="unit">{unit}</span>
              </td>
            </tr>
          ))}
        </tbody>
      ))}
    </table>
  );
}

const SaidOfBoth = ({ caveats }: { caveats: string[] | undefined }) =>
  caveats?.map((c) => (
    <div className="quiet" key={c}>
      {c}
    </div>
  ));

/** On the card of a flag: what the other view says there, where it shows the same result in another reading or at another step. */
export function InOtherView({ id }: { id: number }) {
  const view = useView();
  const [here, reading, step] = useBench((s) => [s.result, s.reading, s.step] as const);
  const other = useOtherBench((s) => ({ result: s.result, reading: s.reading, step: s.step }));
  const differs = other?.reading && reading && (other.step !== step || !alike(reading, other.reading));
  const beside = other && other.result === here && differs ? other : null;
  const { data, error } = useBeside(id, beside);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever changes what the card holds
  useEffect(() => view.redraw?.(), [data, view]);
  if (!beside) return null;
  if (error) return <div className="quiet">{error.message}</div>;
  if (!data) return <div className="quiet">The other view …</div>;
  return (
    <div data-testid={`flag-other-view-${id}`}>
      <Sides more={data.more} there="other view" />
      <SaidOfBoth caveats={data.caveats} />
    </div>
  );
}

const alike = (a: object, b: object) => JSON.stringify(a) === JSON.stringify(b);

function FlagBeside({ id, number, moves, other }: { id: number; number: number; moves: boolean; other: Other }) {
  const view = useView();
  const answer = useBeside(id, other);
  // Flags of this pane's own result are known by their numbers; those of the other one by less than nothing.
  const { card, line, dot, place } = useFlagCard(-1 - id, number);
  const more = answer.data?.more;
  usePinned(more, moves, place);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever changes what the card holds
  useEffect(() => view.redraw?.(), [more, view]);
  if (answer.error)
    return (
      <div className="caveat" role="status">
        {answer.error.message}
      </div>
    );
  if (!more) return null;
  return (
    <>
      <svg className="flag-line beside" aria-hidden="true">
        <line ref={line} />
        <circle ref={dot} r="4.5" />
      </svg>
      <div
        className="flag-card beside"
        ref={card}
        data-testid={`flag-beside-${number}`}
        style={{ visibility: "hidden" }}
        title={answer.data!.sentence}
      >
        <div>
          <b>{more.name || `Flag ${number}`}</b> of {more.of}
        </div>
        <Sides more={more} there="there" />
        <SaidOfBoth caveats={answer.data!.caveats} />
      </div>
    </>
  );
}
