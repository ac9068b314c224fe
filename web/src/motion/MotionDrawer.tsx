import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { useKindOfSteps } from "../lines/motion";
import { ModesTab } from "./ModesTab";
import { ResponseTab } from "./ResponseTab";
import { ShapesTab } from "./ShapesTab";
import { SharesTab } from "./SharesTab";
import { TimeTab } from "./TimeTab";

const tabs: DrawerTab[] = [
  { tab: "modes", label: "Modes", drawn: () => <ModesTab /> },
  { tab: "shapes", label: "Shapes", drawn: () => <ShapesTab /> },
  { tab: "response", label: "Response", drawn: () => <ResponseTab /> },
  { tab: "shares", label: "Shares", drawn: () => <SharesTab /> },
  { tab: "time", label: "Time", drawn: () => <TimeTab /> },
];

/** Modes and their shapes, responses to harmonic loads, shares of modes in a motion, motions over time. */
export function MotionDrawer() {
  const reading = useBench((s) => s.reading);
  const kind = useKindOfSteps();
  if (!reading) return <h3>Motion</h3>;
  // What the result in view can be asked comes first.
  const first = { frequency: "response", time: "time" }[kind ?? ""] ?? "modes";
  const sorted = [...tabs].sort((a, b) => Number(b.tab === first) - Number(a.tab === first));
  return (
    <div data-testid="motion">
      <DrawerTabs bay="motion" name="Motion" tabs={sorted} />
    </div>
  );
}
