/** The bays in the order of the work; each has the key of its number. What each is and shows stands in shell/bays.tsx. */
export const BAYS = ["intake", "balance", "field", "path", "trace", "strength", "compare", "exhibits"] as const;

export type Bay = (typeof BAYS)[number];

export const isBay = (name: string | null): name is Bay => (BAYS as readonly (string | null)[]).includes(name);
export const keyOf = (bay: Bay) => String(BAYS.indexOf(bay) + 1);
