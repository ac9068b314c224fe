import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, named } from "../controls/Choices";
import { useKindOfSteps, useShares, useSharesWords } from "../lines/motion";
import { figure, percent } from "../reading/format";
import { MotionPlace, OtherField, Told } from "./parts";

/** What each mode has in the motion in view: at a place and the step in view, rebuilt over the steps from those that are ticked. */
export function SharesTab() {
  const { result, motion, set } = useBench("result", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useSharesWords();
  const asked = useShares();
  if (kind === undefined || !contents.data) return null;
  if (kind === "mode")
    return (
      <div className="quiet" data-testid="other-kind">
        {contents.data.name} is modes. The share of modes is that in a motion over time or a sweep: choose such a result
        in Intake (key 1).
      </div>
    );
  const modes = asked.data?.more.modes ?? [];
  const chosen = (number: number) => !motion.modes.length || motion.modes.includes(number);
  const toggle = (number: number) => {
    const now = modes.map((m) => m.number).filter(chosen);
    const next = now.includes(number) ? now.filter((n) => n !== number) : [...now, number].sort((a, b) => a - b);
    if (next.length) set({ motion: { ...motion, modes: next.length === modes.length ? [] : next } });
  };
  return (
    <>
      <h3>What each mode has in it</h3>
      <OtherField label="Modes of" />
      <MotionPlace contents={contents.data} />
      <Choices
        className="mt-2 mb-2"
        name="Direction of the motion"
        options={named("x", "y", "z")}
        value={motion.axis}
        onChoose={(axis) => set({ motion: { ...motion, axis } })}
      />
      {words && !asked.error && modes.length > 0 && (
        <table className="figures" data-testid="mode-shares">
          <thead>
            <tr>
              <th>mode</th>
              <th>Hz</th>
              <th>adds {asked.data!.unit}</th>
              <th>share</th>
            </tr>
          </thead>
          <tbody>
            {modes.map((m) => (
              <tr key={m.number}>
                <td className="word">
                  <label>
                    <input
                      type="checkbox"
                      aria-label={`Mode ${m.number} in the sum`}
                      checked={chosen(m.number)}
                      onChange={() => toggle(m.number)}
                    />{" "}
                    {m.number}
                  </label>
                </td>
                <td>{figure(m.frequency, 4)}</td>
                <td>{figure(m.value, 3)}</td>
                <td>{m.share === null ? "no value" : percent(m.share, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {words && (
        <Told asked={asked} what="Shares" kind="mode-shares" words={words} waiting="The motion is taken apart …" />
      )}
    </>
  );
}
