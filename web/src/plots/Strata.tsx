import { ChevronDown, ChevronUp } from "lucide-react";
import { useMemo, useRef } from "react";
import { query } from "../api/binary";
import { readingQuery, useFlags, useMatch, useMeeting, useOverlay, usePairings } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { useBench } from "../bench/store";
import { figure, percent } from "../reading/format";
import { energyPlot, historyPlot, loopPlot } from "./curves";
import { Plot } from "./Plot";

const tabs: [string, string][] = [
  ["loop", "Loop"],
  ["energy", "Energy per cycle"],
  ["driver", "Driver over the steps"],
  ["force", "Force over the steps"],
  ["flags", "Flags"],
];

/** Plots and tables under the view, linked to the step rail and to each other. */
export function Strata() {
  const { result, step, strata, strataHeight, tab, pairing, test, set } = useBench();
  const pairings = usePairings(result);
  const found = pairings.data?.find((p) => p.id === pairing);
  const match = useMatch(found ? found.id : null, test);
  const record = useOverlay(found ? found.id : null, test).data;
  const drag = useRef<{ y: number; height: number } | null>(null);
  const go = (s: number) => set({ step: s, playing: false });
  const plot = useMemo(() => {
    if (!found) return null;
    if (tab === "energy") return energyPlot(found, match.data);
    if (tab === "driver") return historyPlot(found, "x");
    if (tab === "force") return historyPlot(found, "y");
    return loopPlot(found, record);
  }, [found, record, match.data, tab]);
  const here =
    !found || tab === "energy"
      ? undefined
      : tab === "loop"
        ? { x: found.x.values[step] ?? null, y: found.y.values[step] ?? null }
        : { x: found.steps.values[step] ?? null, y: found[tab === "driver" ? "x" : "y"].values[step] ?? null };
  return (
    <section
      className={`strata ${strata ? "" : "strata-closed"}`}
      style={strata ? { height: strataHeight } : undefined}
      aria-label="Strata"
    >
      <div
        className="strata-edge"
        role="separator"
        aria-orientation="horizontal"
        title="Drag to resize"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { y: e.clientY, height: strataHeight };
        }}
        onPointerMove={(e) => {
          if (drag.current)
            set({ strataHeight: Math.min(460, Math.max(140, drag.current.height + drag.current.y - e.clientY)) });
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
      />
      <div className="strata-tabs" role="tablist">
        {tabs.map(([name, label]) => (
          <button
            type="button"
            role="tab"
            key={name}
            aria-selected={tab === name}
            className={tab === name ? "on" : ""}
            onClick={() => set({ tab: name, strata: true })}
          >
            {label}
          </button>
        ))}
        <span className="spring" />
        {found && strata && tab !== "flags" && (
          <>
            <a className="link" href={`/api/pairings/${found.id}/curve.csv`} download>
              Curve CSV
            </a>
            <a className="link" href={`/api/pairings/${found.id}/cycles.csv`} download>
              Cycles CSV
            </a>
          </>
        )}
        <button
          type="button"
          className="ghost icon"
          aria-label={strata ? "Close strata" : "Open strata"}
          title="Strata (key S)"
          onClick={() => set({ strata: !strata })}
        >
          {strata ? <ChevronDown size={15} /> : <ChevronUp size={15} />}
        </button>
      </div>
      {strata && tab === "flags" && <FlagTable />}
      {strata && tab !== "flags" && !found && (
        <div className="strata-empty quiet">No curve yet: make one in the Trace bay (key 5).</div>
      )}
      {strata && tab !== "flags" && found && plot && (
        <div className="strata-columns">
          <Plot {...plot} here={here} onStep={go} label={`${found.y.sentence}; against ${found.x.sentence}`} />
          <CycleTable />
        </div>
      )}
    </section>
  );
}

function CycleTable() {
  const { result, pairing } = useBench();
  const found = usePairings(result).data?.find((p) => p.id === pairing);
  if (!found) return null;
  const { loops } = found;
  if (!loops.cycles.length)
    return <div className="quiet cycle-none">No full cycle: the driver does not come back to a peak.</div>;
  const heads: [string, string | null][] = [
    ["cycle", null],
    ["amplitude", loops.x_unit],
    ["energy", loops.energy_unit],
    ["secant", loops.stiffness_unit],
    ["damping", null],
  ];
  const rows = loops.cycles.map((c, i) => [
    String(i + 1),
    `± ${figure(((c.x_peak ?? 0) - (c.x_trough ?? 0)) / 2, 3)}`,
    figure(c.energy, 4) + (c.closed ? "" : " open"),
    figure(c.secant_stiffness, 3),
    figure(c.damping_ratio, 3),
  ]);
  return (
    <div className="cycle-table" data-testid="cycle-table">
      <table className="figures">
        <thead>
          <tr>
            {heads.map(([name, unit]) => (
              <th key={name}>
                {name} <span className="fig">{unit}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={row[0]}>
              {row.map((cell, j) => (
                <td
                  key={heads[j]![0]}
                  title={
                    j === 2 && !loops.cycles[i]!.closed
                      ? "The ends differ by more than 2 % of the amplitude: joined by a straight chord."
                      : undefined
                  }
                >
                  {cell}
                </td>
              ))}
            </tr>
          ))}
          <tr className="sum">
            <td>all</td>
            <td />
            <td>{figure(loops.energy_total, 4)}</td>
            <td />
            <td />
          </tr>
        </tbody>
      </table>
      <button
        type="button"
        className="link"
        onClick={() =>
          copyTable(
            ["cycle", "amplitude", "energy", "secant stiffness", "damping ratio"],
            ["", loops.x_unit ?? "", loops.energy_unit ?? "", loops.stiffness_unit ?? "", "1"],
            loops.cycles.map((c, i) => [
              i + 1,
              ((c.x_peak ?? 0) - (c.x_trough ?? 0)) / 2,
              c.energy,
              c.secant_stiffness,
              c.damping_ratio,
            ]),
          )
        }
      >
        Copy table
      </button>
    </div>
  );
}

function FlagTable() {
  const { result, reading, step } = useBench();
  const flags = useFlags(result);
  if (!flags.data?.length) return <div className="strata-empty quiet">No flag yet: click the model to plant one.</div>;
  return (
    <div className="flag-table" data-testid="flag-table">
      <table className="figures">
        <thead>
          <tr>
            <th>flag</th>
            <th>node</th>
            <th>value in every element that meets there</th>
            <th>jump</th>
            <th>of the range</th>
          </tr>
        </thead>
        <tbody>
          {flags.data.map((f, i) => (
            <FlagRow key={f.id} number={i + 1} node={f.node} />
          ))}
        </tbody>
      </table>
      {reading && (
        <a className="link" download href={`/api/results/${result}/flags.csv?${query(readingQuery(reading, step))}`}>
          Flags CSV
        </a>
      )}
    </div>
  );
}

function FlagRow({ number, node }: { number: number; node: number }) {
  const told = useMeeting(node);
  const d = told.data;
  return (
    <tr>
      <td>{number}</td>
      <td>{node}</td>
      <td className="wrap">
        {d?.entries.map((e, i) => (
          <span key={`${e.element}-${i}`}>
            {e.element !== null && <span className="quiet">el. {e.element} </span>}
            {figure(e.value)}
            {i < d.entries.length - 1 ? " · " : ` ${d.unit}`}
          </span>
        )) ?? told.error?.message}
      </td>
      <td>{d ? `${figure(d.jump, 3)} ${d.unit}` : ""}</td>
      <td>{d ? percent(d.jump_of_range, 2) : ""}</td>
    </tr>
  );
}
