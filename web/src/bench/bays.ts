/** The bays in the order of the work; each has the key of its number. What each is and shows stands in shell/bays.tsx. */
export const BAYS = [
  "intake",
  "balance",
  "field",
  "path",
  "trace",
  "strength",
  "compare",
  "motion",
  "exhibits",
] as const;

export type Bay = (typeof BAYS)[number];

export const isBay = (name: string | null): name is Bay => (BAYS as readonly (string | null)[]).includes(name);
/** The plots that go with the tabs of a bay's drawer: that of a tab comes up with it. Under '' stands the first tab's. */
const plots: Partial<Record<Bay, Record<string, string>>> = {
  path: { "": "profile", gauges: "gauges" },
  motion: { "": "modes", modes: "modes", shapes: "shapes", response: "response", shares: "shares", time: "time" },
  strength: { "": "stack", stack: "stack", tests: "tested" },
};

/** The plot that goes with a tab of a bay's drawer (none: its first); undefined where none does. */
export const plotOf = (bay: Bay, tab: string | undefined): string | undefined => plots[bay]?.[tab ?? ""];

export const keyOf = (bay: Bay) => String(BAYS.indexOf(bay) + 1);
