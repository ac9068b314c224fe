import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { CasesTab } from "./CasesTab";
import { DifferenceTab } from "./DifferenceTab";
import { MeshesTab } from "./MeshesTab";
import { TableTab } from "./TableTab";

const tabs: DrawerTab[] = [
  { tab: "difference", label: "Difference", drawn: () => <DifferenceTab /> },
  { tab: "cases", label: "Cases", drawn: () => <CasesTab /> },
  { tab: "table", label: "Table", drawn: () => <TableTab /> },
  { tab: "meshes", label: "Meshes", drawn: () => <MeshesTab /> },
];

/** One result against another, load cases combined, and one value over several meshes. */
export function CompareDrawer() {
  const reading = useBench((s) => s.reading);
  if (!reading) return <h3>Compare</h3>;
  return (
    <div data-testid="compare">
      <DrawerTabs bay="compare" name="Compare" tabs={tabs} />
    </div>
  );
}
