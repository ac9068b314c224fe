import { useEffect } from "react";
import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { useHasPlies } from "../lines/strength";
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

const strataOf: Record<string, string> = { failure: "stack", stack: "stack", tests: "tested" };

/** What fails, which ply, how, and whether tests say the same; metals against their limits. */
export function StrengthDrawer() {
  const { drawers, set } = useBench("drawers", "set");
  const plot = strataOf[drawers.strength ?? "failure"];
  const plies = useHasPlies();
  useEffect(() => {
    if (plies && plot) set({ tab: plot });
  }, [plies, plot, set]);
  return (
    <div data-testid="strength">
      <DrawerTabs bay="strength" name="Strength" tabs={tabs} />
    </div>
  );
}
