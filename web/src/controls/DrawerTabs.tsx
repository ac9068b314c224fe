import { type ReactNode, useId } from "react";
import { TabList } from "./TabList";

export interface DrawerTab {
  tab: string;
  label: string;
  drawn: () => ReactNode;
}

interface Props {
  name: string;
  tabs: DrawerTab[];
  chosen: string;
  onChoose: (tab: string) => void;
}

/** The tabs of a bay's drawer, and what the chosen one holds. */
export function DrawerTabs({ name, tabs, chosen, onChoose }: Props) {
  const panel = useId();
  return (
    <>
      <TabList
        name={name}
        className="drawer-tabs"
        tabs={tabs.map(({ tab, label }) => ({ tab, label }))}
        chosen={chosen}
        onChoose={onChoose}
        panel={panel}
      />
      <div id={panel} role="tabpanel" aria-labelledby={`${panel}-${chosen}`}>
        {tabs.find((t) => t.tab === chosen)?.drawn()}
      </div>
    </>
  );
}
