import { saveResponse } from "../api/asking";
import { useContents } from "../api/queries";
import { tell } from "../bench/notices";
import { useBench } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { OptionalNumber } from "../controls/OptionalNumber";
import { Switch } from "../controls/Switch";
import { useKindOfSteps, useResponse, useResponseWords } from "../lines/motion";
import { figure } from "../reading/format";
import { Beside } from "./Beside";
import { MotionPlace, OtherKind, Told, useWays } from "./parts";

const shown: Option<"amplitude" | "level" | "bands" | "phase" | "nyquist">[] = [
  { value: "amplitude", label: "amplitude" },
  { value: "level", label: "decibels", title: "20 log10 of it; sound pressure over 20 µPa" },
  { value: "bands", label: "third octaves", title: "Levels of third-octave bands, IEC 61260" },
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
  const [ways, put] = useWays();
  if (kind === undefined || !contents.data) return null;
  if (kind !== "frequency") return <OtherKind wanted="frequency" does="a frequency response" />;
  const peaks = asked.data?.more.peaks ?? [];
  return (
    <>
      <h3>Response of the reading in view</h3>
      <MotionPlace contents={contents.data} />
      <Choices
        className="mt-2 mb-2"
        name="What is drawn"
        options={shown}
        value={motion.drawn}
        onChoose={(drawn) => set({ motion: { ...motion, drawn }, strata: true, tab: "response" })}
      />
      {(motion.drawn === "level" || motion.drawn === "bands") && (
        <>
          <OptionalNumber
            label="0 dB is"
            name="Reference of the level"
            usual="as usual"
            unit={asked.data?.columns[3]?.unit ?? ""}
            value={ways.reference}
            onSet={(reference) => put({ reference })}
          />
          <Switch
            id="a-weighting"
            label="A-weighted, as the ear hears"
            on={ways.weighting === "A"}
            onSet={(on) => put({ weighting: on ? "A" : "" })}
          />
        </>
      )}
      {motion.drawn === "phase" && (
        <Switch
          id="unwrapped"
          label="Without jumps of a full turn"
          on={ways.unwrapped}
          onSet={(unwrapped) => put({ unwrapped })}
        />
      )}
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
          also={
            asked.data?.more.phase.some((v) => v !== null) && (
              <button
                type="button"
                className="link"
                title="Real and imaginary part over frequency, as a universal file (dataset 58)"
                onClick={() => void saveResponse(words, `${contents.data.name} response`).catch(tell)}
              >
                Response UFF
              </button>
            )
          }
        />
      )}
      {words && <Beside contents={contents.data} />}
    </>
  );
}
