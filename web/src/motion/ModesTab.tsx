import { keepMass, removeKept, useKept, useStating } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, named, type Option } from "../controls/Choices";
import { OptionalNumber } from "../controls/OptionalNumber";
import { useKindOfSteps, useModes, useModesWords } from "../lines/motion";
import { figure, percent } from "../reading/format";
import { OtherKind, Told, useWays } from "./parts";

const scales: Option<"file" | "one" | "mass">[] = [
  { value: "file", label: "as filed", title: "As the file has them" },
  { value: "one", label: "largest 1", title: "The largest motion is 1" },
  { value: "mass", label: "unit mass", title: "The modal mass is 1" },
];

/** The modes of the result in view: frequency, share of the mass that moves along a direction; a click shows one. */
export function ModesTab() {
  const { result, step, motion, set } = useBench("result", "step", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useModesWords();
  const asked = useModes();
  const [ways, put] = useWays();
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
      <div className="row-line">
        <span>Shapes</span>
        <Choices
          name="How the shapes are scaled"
          options={scales}
          value={ways.scaled}
          onChoose={(scaled) => put({ scaled })}
        />
      </div>
      <WholeMass result={contents.data?.id ?? null} unit={more?.mass_unit ?? ""} known={total !== null} />
      <Told asked={asked} what="Modes" kind="modes" words={words} waiting="The modes are gone through …" />
    </>
  );
}

/** The mass of the whole, stated where the densities are not known; removed again. */
function WholeMass({ result, unit, known }: { result: number | null; unit: string; known: boolean }) {
  const kept = useKept("mass", result).data?.[0];
  const keep = useStating((total: number) => keepMass({ result: result!, total, unit }));
  const remove = useStating((id: number) => removeKept("mass", id));
  if (result === null || !unit || (known && !kept)) return null;
  return (
    <div className="row-line" data-testid="whole-mass">
      <OptionalNumber
        label="Mass of the whole"
        name="Mass of the whole"
        usual="not stated"
        unit={kept?.words.unit || unit}
        value={kept?.words.total ?? null}
        onSet={(total) => (total === null ? kept && remove.mutate(kept.id) : keep.mutate(total))}
      />
    </div>
  );
}
