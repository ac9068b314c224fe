import { ChevronDown, ChevronUp } from "lucide-react";
import { useRef } from "react";
import { Form } from "react-bootstrap";
import { useCurve, useCycles, usePairings } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { TabList } from "../controls/TabList";
import type { StrataTab } from "./tabs";

const [lowest, highest] = [140, 460];

/** The tabs that have something to show; a curve's stand in the bay that makes curves even while there is none. */
function useThere(tabs: StrataTab[]): StrataTab[] {
  // biome-ignore lint/correctness/useHookAtTopLevel: the tabs are the same ones, in the same order, as long as the bench is open
  const there = tabs.map((t) => t.useThere());
  return tabs.filter((_, i) => there[i]);
}

/** Plots and tables under the view, linked to the step rail and to each other. */
export function Strata({ tabs }: { tabs: StrataTab[] }) {
  const { result, strata, strataHeight, tab, instead, beside, pairing, set } = useBench(
    "result",
    "strata",
    "strataHeight",
    "tab",
    "instead",
    "beside",
    "pairing",
    "set",
  );
  const found = useCurve();
  const only = useCycles();
  const broken = usePairings(result).data?.find((p) => p.id === pairing)?.error;
  const resize = (height: number) => set({ strataHeight: Math.min(highest, Math.max(lowest, height)) });
  const drag = useRef<{ y: number; height: number } | null>(null);
  const cycles = (found?.loops.cycles.length ?? 0) > 0;
  const there = useThere(tabs);
  const chosen = there.find((t) => t.name === tab) ?? there.find((t) => t.name === instead) ?? there[0];
  if (!chosen)
    return (
      <section className="strata strata-closed" aria-label="Strata" data-testid="no-strata">
        <div className="strata-tabs quiet small-line">
          Plots and tables come here: of a flag (click the model), a line (key 4), a curve (key 5).
        </div>
      </section>
    );
  const second = there.find((t) => t.name === beside && t.name !== chosen.name && t.plot);
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
        {strata && chosen.plot && (
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
              .filter((t) => t.name !== chosen.name && t.plot)
              .map((t) => (
                <option key={t.name} value={t.name}>
                  beside {t.label}
                </option>
              ))}
          </Form.Select>
        )}
        {found && strata && chosen.pairing && (
          <>
            <AnswerLeaves
              what="Curve"
              kind="curve"
              words={{ pairing: found.id, ...(only && { only }) }}
              name={`${found.name} curve ${only}`.trim()}
            />
            {cycles && (
              <AnswerLeaves
                what="Cycles"
                kind="cycles"
                words={{ pairing: found.id, ...(only && { only }) }}
                name={`${found.name} cycles ${only}`.trim()}
              />
            )}
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
          {!chosen.plot && chosen.table()}
          {chosen.pairing && !found && (
            <div className="strata-empty quiet">{broken ?? "No curve yet: make one in the Trace bay (key 5)."}</div>
          )}
          {chosen.plot && (!chosen.pairing || found) && (
            <div className={`strata-columns ${second ? "strata-two" : ""}`}>
              {chosen.plot()}
              {second?.plot ? second.plot() : chosen.table()}
            </div>
          )}
        </div>
      )}
    </section>
  );
}
