import { useBench } from "../bench/store";
import { useModes, useResponse } from "../lines/motion";

interface Props {
  /** Where a step stands on the rail, in pixels. */
  x: (step: number) => number;
  steps: readonly { index: number; value: number }[];
}

/** Of modes a tooth each, as tall as its effective mass in the chosen direction; of a sweep the response of the chosen place. */
export function RailComb({ x, steps }: Props) {
  const motion = useBench((s) => s.motion);
  const modes = useModes().data?.more;
  const response = useResponse().data?.more;
  const axis = "xyz".indexOf(motion.axis);
  const total = modes?.total_mass ?? null;
  const masses = modes?.modes.map((m) => m.effective_mass[axis] ?? 0) ?? [];
  const most = Math.max(...masses, 0);
  const heights = response?.magnitude.map((v) => v ?? 0) ?? [];
  const [top, low] = [Math.max(...heights, 0), Math.min(...heights.filter((v) => v > 0))];
  // A peak is hundreds of times what lies between: the ridge is drawn by its decades.
  const up = (v: number) => (v > 0 && top > low ? 26 * (Math.log(v / low) / Math.log(top / low)) : 0);
  const at = (f: number) => steps.find((s) => s.value === f)?.index;
  return (
    <g data-testid="rail-comb">
      {response && top > 0 && (
        <polygon
          className="rail-ridge"
          points={[
            ...response.frequency.flatMap((f, i) => {
              const step = at(f);
              return step === undefined ? [] : [`${x(step).toFixed(1)},${(30 - up(heights[i]!)).toFixed(1)}`];
            }),
            `${x(at(response.frequency.at(-1)!) ?? 0).toFixed(1)},30`,
            `${x(at(response.frequency[0]!) ?? 0).toFixed(1)},30`,
          ].join(" ")}
        >
          <title>{`response at ${motion.at}, by its decades`}</title>
        </polygon>
      )}
      {total !== null &&
        most > 0 &&
        modes!.modes.map((m, i) => (
          <line
            key={m.step}
            className="rail-tooth"
            x1={x(m.step)}
            x2={x(m.step)}
            y1="30"
            y2={30 - 26 * (masses[i]! / most)}
          >
            <title>{`mode ${m.number}: ${((100 * masses[i]!) / total).toFixed(1)} % of the mass along ${motion.axis}`}</title>
          </line>
        ))}
    </g>
  );
}
