import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { DifferenceTab } from "./DifferenceTab";
import { MeshesTab } from "./MeshesTab";

const tabs: DrawerTab[] = [
  { tab: "difference", label: "Difference", drawn: () => <DifferenceTab /> },
  { tab: "meshes", label: "Meshes", drawn: () => <MeshesTab /> },
];

/** One result against another, and one value over several meshes. */
export function CompareDrawer() {
  const reading = useBench((s) => s.reading);
  if (!reading) return <h3>Compare</h3>;
  return (
    <div data-testid="compare">
      <DrawerTabs bay="compare" name="Compare" tabs={tabs} />
    </div>
  );
}
