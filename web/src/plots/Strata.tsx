import { ChevronDown, ChevronUp } from "lucide-react";
import { type ReactNode, useMemo, useRef } from "react";
import { Form } from "react-bootstrap";
import { useKept } from "../api/kept";
import { useFlags } from "../api/marks";
import { useContents, useCurve, useMatch, useNamed, useOverlay, usePairings } from "../api/queries";
import { type Bay, useBench } from "../bench/store";
import { Leaves } from "../controls/Leaves";
import { TabList } from "../controls/TabList";
import { CycleTable } from "./CycleTable";
import { energyPlot, historyPlot, loopPlot, residualPlot } from "./curves";
import { FlagStepsLegend, FlagStepsPlot } from "./FlagSteps";
import { FlagTable } from "./FlagTable";
import { GaugePlot, GaugeTable } from "./GaugePlot";
import { MemberPlot, TakenOver } from "./MemberPlot";
import { NamedLegend, NamedPlot } from "./NamedPlot";
import { Plot } from "./Plot";
import { ProfileLegend, ProfilePlot } from "./ProfilePlot";
import { EnvelopeLegend, EnvelopePlot, StackPlot, StackTable, TestedPlot, TestedTable } from "./StrengthPlots";

type OfPairing = "loop" | "energy" | "residual" | "driver" | "force";

interface Tab {
  name: string;
  label: string;
  title: string;
  /** What is drawn, and the table that goes with it. */
  plot: () => ReactNode;
  table: () => ReactNode;
  /** Whether it is a view of the curve in view, and so has its downloads. */
  pairing?: boolean;
  /** Whether it is of plies, and so is there where laminates are stated. */
  plies?: boolean;
  /** Whether it needs more than one step. */
  steps?: boolean;
}

const ofPairing = (name: OfPairing, label: string, title: string): Tab => ({
  name,
  label,
  title,
  plot: () => <PairingPlot view={name} />,
  table: () => <CycleTable />,
  pairing: true,
});

const tabs: Tab[] = [
  ofPairing("loop", "Loop", "The curve in view, force against driver"),
  ofPairing("energy", "Energy", "Energy of each cycle"),
  ofPairing("residual", "Residual", "Model minus test, at the test's points"),
  ofPairing("driver", "Driver", "The driver over the steps"),
  ofPairing("force", "Force", "The force over the steps"),
  {
    name: "curves",
    label: "Curves",
    title: "Curves by name, over the steps",
    plot: () => <NamedPlot />,
    table: () => <NamedLegend />,
  },
  {
    name: "member",
    label: "Members",
    title: "Along a member of bars, and which take over force",
    plot: () => <MemberPlot />,
    table: () => <TakenOver />,
  },
  {
    name: "profile",
    label: "Profile",
    title: "The reading along lines",
    plot: () => <ProfilePlot />,
    table: () => <ProfileLegend />,
  },
  {
    name: "gauges",
    label: "Gauges",
    title: "Gauge points, against what was measured",
    plot: () => <GaugePlot />,
    table: () => <GaugeTable />,
  },
  {
    name: "stack",
    label: "Stack",
    title: "The plies of an element through the thickness",
    plot: () => <StackPlot />,
    table: () => <StackTable />,
    plies: true,
  },
  {
    name: "envelope",
    label: "Envelope",
    title: "Where a criterion is met, with the coupons and the way of the place that fails",
    plot: () => <EnvelopePlot />,
    table: () => <EnvelopeLegend />,
    plies: true,
  },
  {
    name: "tested",
    label: "Tested",
    title: "What each criterion predicts against the tested parts",
    plot: () => <TestedPlot />,
    table: () => <TestedTable />,
    plies: true,
  },
  {
    name: "flag-steps",
    label: "Over steps",
    title: "The reading at the flags, over the steps",
    plot: () => <FlagStepsPlot />,
    table: () => <FlagStepsLegend />,
    steps: true,
  },
  { name: "flags", label: "Flags", title: "Every flag of the result", plot: () => null, table: () => <FlagTable /> },
];

const [lowest, highest] = [140, 460];

/** The bay in which a tab is filled: there it stands even while it is empty. */
const bayOf: Record<string, Bay> = { profile: "path", gauges: "path", curves: "trace" };

/** Whether there are named curves, lines, gauges and flags to be shown; while it is not known, they may be. */
function useWhatIsThere(result: number | null) {
  const some = (asked: { data?: unknown[] }) => asked.data === undefined || asked.data.length > 0;
  const named = some(useNamed(result));
  const kept = { path: some(useKept("path", result)), gauges: some(useKept("gauges", result)) };
  return { named, kept, flags: some(useFlags(result)) };
}

/** Plots and tables under the view, linked to the step rail and to each other. */
export function Strata() {
  const { result, bay, strata, strataHeight, tab, beside, pairing, test, set } = useBench(
    "result",
    "bay",
    "strata",
    "strataHeight",
    "tab",
    "beside",
    "pairing",
    "test",
    "set",
  );
  const contents = useContents(result);
  const found = useCurve();
  const broken = usePairings(result).data?.find((p) => p.id === pairing)?.error;
  const match = useMatch(found ? found.id : null, test);
  const resize = (height: number) => set({ strataHeight: Math.min(highest, Math.max(lowest, height)) });
  const drag = useRef<{ y: number; height: number } | null>(null);
  const lines = Object.keys(contents.data?.cells ?? {}).some((k) => k.startsWith("line"));
  const plies = contents.data?.fields.some((f) => f.rank === "ply") ?? false;
  const cycles = (found?.loops.cycles.length ?? 0) > 0;
  const { named, kept, flags } = useWhatIsThere(result);
  // What has nothing to show takes no room, but for the bay that would fill it.
  const fills: Record<string, boolean> = {
    curves: named,
    profile: kept.path,
    gauges: kept.gauges,
    flags,
    "flag-steps": flags,
  };
  const there = tabs.filter(
    ({ name, plies: ofPlies, steps, pairing: ofCurve }) =>
      (!ofPlies || plies) &&
      (!steps || (contents.data?.steps.length ?? 0) > 1) &&
      (name !== "member" || lines) &&
      (!(name in fills) || fills[name] || bayOf[name] === bay) &&
      (!ofCurve || found || broken || bay === "trace") &&
      (name !== "residual" || match.data) &&
      (name !== "energy" || cycles || !found),
  );
  const chosen = there.find((t) => t.name === tab) ?? there[0];
  if (!chosen)
    return (
      <section className="strata strata-closed" aria-label="Strata" data-testid="no-strata">
        <div className="strata-tabs quiet small-line">
          Plots and tables come here: of a flag (click the model), a line (key 4), a curve (key 5).
        </div>
      </section>
    );
  const second = there.find((t) => t.name === beside && t.name !== chosen.name && t.name !== "flags");
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
        aria-label="Height of plots and tables"
        aria-valuemin={lowest}
        aria-valuemax={highest}
        aria-valuenow={strataHeight}
        tabIndex={strata ? 0 : -1}
        title="Drag to resize, or arrow keys"
        onKeyDown={(e) => {
          const by = { ArrowUp: 24, ArrowDown: -24, Home: -highest, End: highest }[e.key];
          if (!by) return;
          e.preventDefault();
          e.stopPropagation();
          resize(strataHeight + by);
        }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { y: e.clientY, height: strataHeight };
        }}
        onPointerMove={(e) => {
          if (drag.current) resize(drag.current.height + drag.current.y - e.clientY);
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
      />
      <div className="strata-tabs">
        <TabList
          name="Strata"
          className="tabs"
          tabs={there.map(({ name, label, title }) => ({ tab: name, label, title }))}
          chosen={chosen.name}
          onChoose={(name) => set({ tab: name, strata: true })}
          panel="strata-panel"
        />
        <span className="spring" />
        {strata && chosen.name !== "flags" && (
          <Form.Select
            size="sm"
            className="beside"
            aria-label="Beside it"
            title="What stands beside it"
            value={second ? beside : ""}
            onChange={(e) => set({ beside: e.target.value })}
          >
            <option value="">with its table</option>
            {there
              .filter((t) => t.name !== chosen.name && t.name !== "flags")
              .map((t) => (
                <option key={t.name} value={t.name}>
                  beside {t.label}
                </option>
              ))}
          </Form.Select>
        )}
        {found && strata && chosen.pairing && (
          <>
            <Leaves what="Curve" address={`/api/pairings/${found.id}/curve`} />
            {cycles && <Leaves what="Cycles" address={`/api/pairings/${found.id}/cycles`} />}
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
      {strata && (
        <div className="strata-panel" id="strata-panel" role="tabpanel" aria-labelledby={`strata-panel-${chosen.name}`}>
          {chosen.name === "flags" && <FlagTable />}
          {chosen.pairing && !found && (
            <div className="strata-empty quiet">{broken ?? "No curve yet: make one in the Trace bay (key 5)."}</div>
          )}
          {chosen.name !== "flags" && (!chosen.pairing || found) && (
            <div className={`strata-columns ${second ? "strata-two" : ""}`}>
              {chosen.plot()}
              {second ? second.plot() : chosen.table()}
            </div>
          )}
        </div>
      )}
    </section>
  );
}

/** One view of the curve in view. */
function PairingPlot({ view }: { view: OfPairing }) {
  const { step, test, set } = useBench("step", "test", "set");
  const found = useCurve();
  const match = useMatch(found ? found.id : null, test).data;
  const record = useOverlay(found ? found.id : null, test).data;
  const plot = useMemo(() => {
    if (!found) return null;
    if (view === "energy") return energyPlot(found, match);
    if (view === "residual") return match ? residualPlot(found, match) : null;
    if (view === "driver") return historyPlot(found, "x");
    if (view === "force") return historyPlot(found, "y");
    return loopPlot(found, record);
  }, [found, record, match, view]);
  if (!found || !plot) return null;
  const here =
    view === "energy" || view === "residual"
      ? undefined
      : view === "loop"
        ? { x: found.x.values[step] ?? null, y: found.y.values[step] ?? null }
        : { x: found.steps.values[step] ?? null, y: found[view === "driver" ? "x" : "y"].values[step] ?? null };
  return (
    <Plot
      {...plot}
      here={here}
      onStep={(s) => set({ step: s, playing: false })}
      label={
        view === "residual"
          ? `model minus test, ${found.y.sentence}`
          : `${found.y.sentence}; against ${found.x.sentence}`
      }
    />
  );
}
