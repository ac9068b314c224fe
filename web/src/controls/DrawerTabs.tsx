import type { ReactNode } from "react";

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
export const DrawerTabs = ({ name, tabs, chosen, onChoose }: Props) => (
  <>
    <div className="drawer-tabs" role="tablist" aria-label={name}>
      {tabs.map(({ tab, label }) => (
        <button
          type="button"
          role="tab"
          key={tab}
          aria-selected={chosen === tab}
          className={chosen === tab ? "on" : ""}
          onClick={() => onChoose(tab)}
        >
          {label}
        </button>
      ))}
    </div>
    {tabs.find((t) => t.tab === chosen)?.drawn()}
  </>
);
