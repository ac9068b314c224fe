import { type KeyboardEvent, useRef } from "react";

interface Props {
  name: string;
  className: string;
  tabs: { tab: string; label: string; title?: string }[];
  chosen: string;
  onChoose: (tab: string) => void;
  /** The element that holds what the chosen tab shows. */
  panel: string;
}

/** A row of tabs: one stop of the tab key; arrows, Home and End go from one to the next. */
export function TabList({ name, className, tabs, chosen, onChoose, panel }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const go = (e: KeyboardEvent) => {
    const at = tabs.findIndex((t) => t.tab === chosen);
    const to = {
      ArrowRight: (at + 1) % tabs.length,
      ArrowLeft: (at + tabs.length - 1) % tabs.length,
      Home: 0,
      End: tabs.length - 1,
    }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    onChoose(tabs[to]!.tab);
    list.current?.querySelectorAll<HTMLElement>("[role=tab]")[to]?.focus();
  };
  return (
    <div className={className} role="tablist" aria-label={name} ref={list} tabIndex={-1} onKeyDown={go}>
      {tabs.map(({ tab, label, title }) => (
        <button
          type="button"
          role="tab"
          key={tab}
          id={`${panel}-${tab}`}
          aria-selected={chosen === tab}
          aria-controls={chosen === tab ? panel : undefined}
          tabIndex={chosen === tab ? 0 : -1}
          title={title}
          className={chosen === tab ? "on" : ""}
          onClick={() => onChoose(tab)}
        >
          {label}
        </button>
      ))}
    </div>
  );
}
