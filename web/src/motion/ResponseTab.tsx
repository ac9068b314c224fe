import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { useKindOfSteps, useResponse, useResponseWords } from "../lines/motion";
import { figure } from "../reading/format";
import { OtherKind, PlaceField, Told } from "./parts";

const ways: Option<"amplitude" | "level" | "phase" | "nyquist">[] = [
  { value: "amplitude", label: "amplitude" },
  { value: "level", label: "decibels", title: "20 log10 of it; sound pressure over 20 µPa" },
  { value: "phase", label: "phase" },
  { value: "nyquist", label: "Nyquist", title: "Imaginary over real part" },
];

/** The frequency response of the reading in view at a place: its peaks with their damping. */
export function ResponseTab() {
  const { result, motion, set } = useBench("result", "motion", "set");
  const contents = useContents(result);
  const kind = useKindOfSteps();
  const words = useResponseWords();
  const asked = useResponse();
  if (kind === undefined || !contents.data) return null;
  if (kind !== "frequency") return <OtherKind wanted="frequency" does="a frequency response" />;
  const peaks = asked.data?.more.peaks ?? [];
  return (
    <>
      <h3>Response of the reading in view</h3>
      <PlaceField contents={contents.data} />
      <Choices
        className="mt-2 mb-2"
        name="What is drawn"
        options={ways}
        value={motion.drawn}
        onChoose={(drawn) => set({ motion: { ...motion, drawn }, strata: true, tab: "response" })}
      />
      {words && peaks.length > 0 && (
        <table className="figures" data-testid="peaks">
          <thead>
            <tr>
              <th>peak, Hz</th>
              <th>{asked.data!.unit}</th>
              <th>damping</th>
              <th>quality</th>
            </tr>
          </thead>
          <tbody>
            {peaks.map((p) => (
              <tr key={p.frequency}>
                <td>{figure(p.frequency, 4)}</td>
                <td>{figure(p.amplitude, 4)}</td>
                <td>{p.damping === null ? "not told" : figure(p.damping, 3)}</td>
                <td>{p.quality === null ? "" : figure(p.quality, 3)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {words && (
        <Told
          asked={asked}
          what="Response"
          kind="response"
          words={words}
          waiting="The sweep is read …"
          figures={peaks.length === 0}
        />
      )}
    </>
  );
}
