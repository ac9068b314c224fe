import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, named } from "../controls/Choices";
import { useKindOfSteps, useModes, useModesWords } from "../lines/motion";
import { figure, percent } from "../reading/format";
import { OtherKind, Told } from "./parts";

/** The modes of the result in view: frequency, share of the mass that moves along a direction; a click shows one. */
export function ModesTab() {
  const { result, step, motion, set } = useBench("result", "step", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useModesWords();
  const asked = useModes();
  if (kind === undefined) return null;
  if (words === null) return <OtherKind wanted="mode" does="a table of modes" />;
  const more = asked.data?.more;
  const axis = "xyz".indexOf(motion.axis);
  const total = more?.total_mass ?? null;
  return (
    <>
      <h3>Modes of {contents.data?.name}</h3>
      {more && total !== null && (
        <Choices
          className="mb-2"
          name="Direction of the effective mass"
          options={named("x", "y", "z")}
          value={motion.axis}
          onChoose={(a) => set({ motion: { ...motion, axis: a } })}
        />
      )}
      {more && (
        <table className="figures" data-testid="modes">
          <thead>
            <tr>
              <th>mode</th>
              <th>Hz</th>
              {total !== null && <th>mass along {motion.axis}</th>}
              <th>remark</th>
            </tr>
          </thead>
          <tbody>
            {more.modes.map((m) => {
              const moved = m.effective_mass[axis];
              return (
                <tr key={m.step} className={m.step === step ? "on" : ""}>
                  <td>
                    <button type="button" className="link" onClick={() => set({ step: m.step })}>
                      {m.number}
                    </button>
                  </td>
                  <td>{figure(m.frequency, 4)}</td>
                  {total !== null && <td>{moved == null ? "no value" : percent(moved / total, 1)}</td>}
                  <td className="word">
                    {m.rigid ? "rigid" : ""}
                    {m.near.length ? ` near ${m.near.join(", ")}` : ""}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <Told asked={asked} what="Modes" kind="modes" words={words} waiting="The modes are gone through …" />
    </>
  );
}
