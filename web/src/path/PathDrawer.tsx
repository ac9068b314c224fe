import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { GaugesTab } from "./GaugesTab";
import { PathsTab } from "./PathsTab";

const tabs: DrawerTab[] = [
  { tab: "paths", label: "Paths", drawn: () => <PathsTab /> },
  { tab: "gauges", label: "Gauges", drawn: () => <GaugesTab /> },
];

/** Values along lines and at measuring points. */
export function PathDrawer() {
  const { reading, set } = useBench("reading", "set");
  if (!reading) return <h3>Path</h3>;
  return (
    <div data-testid="path">
      <DrawerTabs
        bay="path"
        name="Path"
        tabs={tabs}
        onChoose={() => set({ picks: [], picking: "flag", strata: true })}
      />
    </div>
  );
}
