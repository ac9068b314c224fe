import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { Checks } from "./Checks";
import { Contact } from "./Contact";
import { Inside } from "./Inside";
import { LoadBalance } from "./LoadBalance";
import { Sets } from "./Sets";

const tabs: DrawerTab[] = [
  { tab: "balance", label: "Balance", drawn: () => <LoadBalance /> },
  { tab: "inside", label: "Inside", drawn: () => <Inside /> },
  { tab: "contact", label: "Contact", drawn: () => <Contact /> },
  { tab: "checks", label: "Checks", drawn: () => <Checks /> },
  { tab: "sets", label: "Sets", drawn: () => <Sets /> },
];

/** Whether forces add up: over the model, set by set, through a cut, at a joint; checks by hand and of sense. */
export function BalanceDrawer() {
  const result = useBench((s) => s.result);
  if (result === null) return <h3>Balance</h3>;
  return (
    <div data-testid="balance">
      <DrawerTabs bay="balance" name="Balance" tabs={tabs} />
    </div>
  );
}
