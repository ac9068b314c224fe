import type { ReactNode } from "react";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { MarksTab } from "./MarksTab";
import { ModelTab } from "./ModelTab";
import { ValuesTab } from "./ValuesTab";
import { ViewTab } from "./ViewTab";

const tabs: { tab: string; label: string; drawn: () => ReactNode }[] = [
  { tab: "values", label: "Values", drawn: () => <ValuesTab /> },
  { tab: "model", label: "Model", drawn: () => <ModelTab /> },
  { tab: "marks", label: "Marks", drawn: () => <MarksTab /> },
  { tab: "view", label: "View", drawn: () => <ViewTab /> },
];

/** Looking at the field: the values and their key, the model they are on, what is marked, where one looks from. */
export function FieldDrawer() {
  const { result, reading, fieldTab, set } = useBench();
  const contents = useContents(result);
  if (!reading || !contents.data) return <h5>Field</h5>;
  return (
    <div data-testid="field">
      <div className="drawer-tabs" role="tablist" aria-label="Field">
        {tabs.map(({ tab, label }) => (
          <button
            type="button"
            role="tab"
            key={tab}
            aria-selected={fieldTab === tab}
            className={fieldTab === tab ? "on" : ""}
            onClick={() => set({ fieldTab: tab })}
          >
            {label}
          </button>
        ))}
      </div>
      {tabs.find((t) => t.tab === fieldTab)?.drawn()}
    </div>
  );
}
