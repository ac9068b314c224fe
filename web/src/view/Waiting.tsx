import { ProgressBar } from "react-bootstrap";
import { useLoading } from "../api/binary";
import { useValues } from "../api/queries";
import { useSending } from "../api/sending";
import { useTurn } from "../api/turn";
import { say } from "../bench/notices";
import { useBench } from "../bench/store";
import { figure } from "../reading/format";
import { useView } from "./handle";

/** How far long work is, and the way to stop it: the reading goes back to one step, the limits to this step's. */
export function LongWork() {
  const { work, reading, setReading, setKey } = useBench("work", "reading", "setReading", "setKey");
  if (!work) return null;
  const stop = () => {
    work.stop();
    if (reading && (reading.over !== "step" || reading.against?.includes("over=")))
      setReading({ over: "step", against: reading.against?.includes("over=") ? null : reading.against });
    else setKey({ fit: "step", low: null, high: null });
    say("Stopped: one step is shown.");
  };
  return (
    <div className="view-work" role="status" data-testid="long-work">
      <span>{work.text}</span>
      <ProgressBar now={100 * work.share} aria-label="Progress" />
      <button type="button" className="link" onClick={stop}>
        Stop
      </button>
    </div>
  );
}

/** A file that takes long to read, or a reading that does, with the way to stop it; or what stands before this page's questions at
 * the service. */
export function InTurn() {
  const turn = useTurn();
  const sending = useSending((s) => s.sending);
  const view = useView();
  const { work, result, key, set } = useBench("work", "result", "key", "set");
  const reading = useValues().isFetching;
  if (!turn || work || !(sending || turn.before || reading)) return null;
  const { shown } = view;
  const back = reading && !sending && shown?.result === result ? shown : null;
  const before = turn.before === 1 ? "one large question" : `${turn.before} large questions`;
  return (
    <div className="view-work" role="status" data-testid="in-turn">
      <span>
        {sending
          ? turn.far || `Reading ${sending.name}`
          : turn.before
            ? `Waits its turn: ${before} before it.`
            : `Worked out: ${turn.far || "the values of this reading"} …`}
      </span>
      {sending && (
        <button type="button" className="link" onClick={sending.stop}>
          Stop
        </button>
      )}
      {back && (
        <button
          type="button"
          className="link"
          onClick={() => {
            // What nobody asks for any more is not worked out any more.
            set({ reading: back.reading, step: back.step, key: { ...key, weigh: back.weigh } });
            say("Stopped. What was there before is shown.");
          }}
        >
          Stop
        </button>
      )}
    </div>
  );
}

/** How much of the model has come. */
export function Coming() {
  const coming = Object.values(useLoading((s) => s.coming));
  const got = coming.reduce((sum, c) => sum + c.got, 0);
  const all = coming.reduce((sum, c) => sum + c.all, 0);
  if (!all) return null;
  return (
    <>
      <span className="fig">
        {figure(got / 1e6, 3)} of {figure(all / 1e6, 3)} MB
      </span>
      <ProgressBar now={(100 * got) / all} aria-label="Received" />
    </>
  );
}
