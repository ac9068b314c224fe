import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { FailureTab } from "./FailureTab";
import { MetalsTab } from "./MetalsTab";
import { StackTab } from "./StackTab";
import { TestsTab } from "./TestsTab";

const tabs: DrawerTab[] = [
  { tab: "failure", label: "Failure", drawn: () => <FailureTab /> },
  { tab: "stack", label: "Stacks", drawn: () => <StackTab /> },
  { tab: "tests", label: "Tests", drawn: () => <TestsTab /> },
  { tab: "metals", label: "Metals", drawn: () => <MetalsTab /> },
];

/** What fails, which ply, how, and whether tests say the same; metals against their limits. */
export function StrengthDrawer() {
  const contents = useContents(useBench((s) => s.result));
  return (
    <div data-testid="strength">
      <DrawerTabs
        bay="strength"
        name="Strength"
        tabs={tabs}
        usual={contents.data?.strength === "metals" ? "metals" : "failure"}
      />
    </div>
  );
}
