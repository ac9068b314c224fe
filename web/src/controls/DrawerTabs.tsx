import { type ReactNode, useId } from "react";
import type { Bay } from "../bench/bays";
import { drawerTab, useBench } from "../bench/store";
import { TabList } from "./TabList";

export interface DrawerTab {
  tab: string;
  label: string;
  drawn: () => ReactNode;
}

interface Props {
  bay: Bay;
  name: string;
  tabs: DrawerTab[];
  /** The tab that is open where none has been chosen; none: the first. */
  usual?: string;
  /** What else happens where one is chosen. */
  onChoose?: (tab: string) => void;
}

/** The tabs of a bay's drawer, and what the chosen one holds: the first where none has been chosen. */
export function DrawerTabs({ bay, name, tabs, usual = tabs[0]!.tab, onChoose }: Props) {
  const panel = useId();
  const { drawers, set } = useBench("drawers", "set");
  const chosen = tabs.find((t) => t.tab === (drawers[bay] ?? usual)) ?? tabs[0]!;
  return (
    <>
      <TabList
        name={name}
        className="drawer-tabs"
        tabs={tabs.map(({ tab, label }) => ({ tab, label }))}
        chosen={chosen.tab}
        onChoose={(tab) => {
          set({ drawers: drawerTab(drawers, bay, tab === usual ? undefined : tab) });
          onChoose?.(tab);
        }}
        panel={panel}
      />
      <div id={panel} role="tabpanel" aria-labelledby={`${panel}-${chosen.tab}`}>
        {chosen.drawn()}
      </div>
    </>
  );
}
