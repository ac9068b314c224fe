import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { type DrawerTab, DrawerTabs } from "../controls/DrawerTabs";
import { CutsTab } from "./CutsTab";
import { MarksTab } from "./MarksTab";
import { ModelTab } from "./ModelTab";
import { ValuesTab } from "./ValuesTab";
import { ViewTab } from "./ViewTab";

const tabs: DrawerTab[] = [
  { tab: "values", label: "Values", drawn: () => <ValuesTab /> },
  { tab: "model", label: "Model", drawn: () => <ModelTab /> },
  { tab: "cuts", label: "Cuts", drawn: () => <CutsTab /> },
  { tab: "marks", label: "Marks", drawn: () => <MarksTab /> },
  { tab: "view", label: "View", drawn: () => <ViewTab /> },
];

/** Looking at the field: the values and their key, the model they are on, what is marked, where one looks from. */
export function FieldDrawer() {
  const { result, reading } = useBench("result", "reading");
  const contents = useContents(result);
  if (!reading || !contents.data) return <h3>Field</h3>;
  return (
    <div data-testid="field">
      <DrawerTabs bay="field" name="Field" tabs={tabs} />
    </div>
  );
}
