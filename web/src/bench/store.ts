import { createContext, useContext, useMemo } from "react";
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { plotOf } from "./bays";
import {
  type Actions,
  type BenchState,
  freshKey,
  freshLook,
  freshPane,
  freshPlaying,
  freshProfile,
  freshShared,
  nothingPicked,
  type Pane,
  type ReadingChoice,
  type Shared,
} from "./state";

export * from "./state";

/** The reading after a change of some of its words, and the key that goes with it. */
export function changedReading(pane: Pane, change: Partial<ReadingChoice>): Partial<Pane> {
  if (!pane.reading) return {};
  const reading = { ...pane.reading, ...change };
  // A jump is taken of values as computed: averaging ends it.
  if (reading.averaging !== "off") reading.of = "value";
  if (reading.over === "step") reading.when = false;
  // A unit belongs to a measure: another measure starts in its own.
  if (change.measure !== undefined && change.unit === undefined && change.measure !== pane.reading.measure)
    reading.unit = null;
  const before = pane.reading;
  const words = ["field", "measure", "unit", "of", "axes", "plane", "when", "against", "criterion"] as const;
  const other = words.some((word) => reading[word] !== before[word]);
  // Limits belong to a field, measure and unit; averaging keeps them so that two averagings can be compared.
  return { reading, key: other ? { ...pane.key, low: null, high: null, fit: "step", log: false } : pane.key };
}

interface Root {
  shared: Shared;
  panes: Pane[];
  /** The pane that the reading line, the drawer and the address tell of. */
  active: number;
}

const root = create<Root>(() => ({ shared: freshShared, panes: [freshPane], active: 0 }));

/** A change that opens a bay or a tab of its drawer opens the plot that goes with it too, where it does not say which. */
function withItsPlot(shared: Shared, change: Partial<Pane & Shared>): Partial<Pane & Shared> {
  const { bay, drawers } = { ...shared, ...change };
  const plot = plotOf(bay, drawers[bay]);
  const opened = bay !== shared.bay || drawers[bay] !== shared.drawers[bay];
  return opened && plot && change.tab === undefined ? { ...change, tab: plot, instead: shared.tab } : change;
}

const isOfPane = (name: string) => name in freshPane;

/** Takes a change over: what belongs to a pane goes to it, the rest to the bench. */
function take(pane: number, change: Partial<Pane & Shared>): void {
  const entries = Object.entries(withItsPlot(root.getState().shared, change)).filter(
    ([name]) => isOfPane(name) || name in freshShared,
  );
  // Another curve has other cycles.
  if (change.pairing !== undefined && change.pairing !== root.getState().shared.pairing && change.cycles === undefined)
    entries.push(["cycles", []]);
  const own = Object.fromEntries(entries.filter(([name]) => isOfPane(name))) as Partial<Pane>;
  const rest = Object.fromEntries(entries.filter(([name]) => !isOfPane(name))) as Partial<Shared>;
  root.setState((r) => ({
    shared: Object.keys(rest).length ? { ...r.shared, ...rest } : r.shared,
    panes: Object.keys(own).length ? r.panes.map((p, i) => (i === pane ? { ...p, ...own } : p)) : r.panes,
  }));
}

const made: Actions[] = [];

function actionsOf(pane: number): Actions {
  const of = () => root.getState().panes[pane]!;
  made[pane] ??= {
    set: (change) => take(pane, change),
    setKey: (change) => take(pane, { key: { ...of().key, ...change } }),
    setLook: (change) => take(pane, { look: { ...of().look, ...change } }),
    setReading: (change) => take(pane, changedReading(of(), change)),
    open: (result) =>
      take(pane, {
        result,
        reading: null,
        carried: of().reading ?? of().carried,
        camera: null,
        look: freshLook,
        arrows: null,
        measuring: nothingPicked,
        member: null,
        paths: null,
        draft: null,
        profile: freshProfile,
        held: [],
        cut: null,
        moving: null,
        gauges: null,
        element: null,
        second: null,
        picks: [],
        making: null,
        flagSteps: { only: null, take: "all" },
        key: freshKey,
        picking: "flag",
        pairing: null,
        play: freshPlaying,
      }),
  };
  return made[pane]!;
}

const seen = new WeakMap<Pane, { shared: Shared; pane: number; state: BenchState }>();

/** The bench as a pane sees it; the same object as long as nothing of either has changed. */
function stateOf(r: Root, pane: number): BenchState {
  const own = r.panes[pane] ?? r.panes[0]!;
  const known = seen.get(own);
  if (known && known.shared === r.shared && known.pane === pane) return known.state;
  const state = { ...r.shared, ...own, ...actionsOf(pane) };
  seen.set(own, { shared: r.shared, pane, state });
  return state;
}

/** Which pane a part of the screen belongs to; null what follows the active one. */
export const PaneScope = createContext<number | null>(null);

function picked<K extends keyof BenchState>(state: BenchState, names: K[]): Pick<BenchState, K> {
  return Object.fromEntries(names.map((name) => [name, state[name]])) as Pick<BenchState, K>;
}

/** What a component draws of its pane and the bench, by name or by a function: it is drawn anew when that changes, and by nothing else. */
export function useBench<K extends keyof BenchState>(...names: K[]): Pick<BenchState, K>;
export function useBench<T>(pick: (state: BenchState) => T): T;
export function useBench(
  first: keyof BenchState | ((state: BenchState) => unknown),
  ...rest: (keyof BenchState)[]
): unknown {
  const pane = useContext(PaneScope);
  const pick = typeof first === "function" ? first : (state: BenchState) => picked(state, [first, ...rest]);
  return root(useShallow((r) => pick(stateOf(r, pane ?? r.active))));
}

/** What a component draws of another pane than its own; null where there is none. */
export const useOtherBench = <T>(pick: (state: BenchState) => T): T | null => {
  const pane = useContext(PaneScope);
  return root(useShallow((r) => (r.panes.length < 2 ? null : pick(stateOf(r, 1 - (pane ?? r.active))))));
};

/** Whether a component's pane is the one that is worked in. */
export const useIsActive = (): boolean => {
  const pane = useContext(PaneScope);
  return root((r) => pane === null || pane === r.active);
};

/** A pane as it is whenever it is asked, and changes to it. */
export interface PaneHold {
  index: number;
  getState: () => BenchState;
  set: Actions["set"];
}

/** The pane a component belongs to, for what it does later. */
export function usePane(): PaneHold {
  const scope = useContext(PaneScope);
  const active = root((r) => r.active);
  const index = scope ?? active;
  return useMemo(
    () => ({ index, getState: () => stateOf(root.getState(), index), set: (change) => take(index, change) }),
    [index],
  );
}

/** The active pane, for the shell: what is asked and changed there is of whichever pane is worked in. */
export const activePane = {
  getState: () => stateOf(root.getState(), root.getState().active),
  setState: (change: Partial<Pane & Shared>) => take(root.getState().active, change),
  /** switched: another pane has become the active one. */
  subscribe: (listener: (state: BenchState, before: BenchState, switched: boolean) => void) =>
    root.subscribe((now, before) =>
      listener(stateOf(now, now.active), stateOf(before, before.active), now.active !== before.active),
    ),
};

/** The panes that are open, by their numbers. */
export const usePanes = (): number[] => root(useShallow((r) => r.panes.map((_, i) => i)));

/** The panes that are open, and which of them is the active one. */
export const panes = {
  count: () => root.getState().panes.length,
  active: () => root.getState().active,
  /** Changes a pane, whichever is the active one. */
  set: (pane: number, change: Partial<Pane>) => take(pane, change),
  activate: (active: number) => root.setState({ active }),
  state: (pane: number) => stateOf(root.getState(), pane),
  /** Opens a pane that begins as the active one is, with some things changed; the new one is the active one. */
  add: (change: Partial<Pane> = {}) =>
    root.setState((r) => ({ panes: [...r.panes, { ...r.panes[r.active]!, ...change }], active: r.panes.length })),
  /** Tells of every change of a pane that was there before. */
  watch: (listener: (pane: number, now: Pane, before: Pane) => void) =>
    root.subscribe((now, before) => {
      if (now.panes.length !== before.panes.length) return;
      now.panes.forEach((pane, i) => {
        if (pane !== before.panes[i]) listener(i, pane, before.panes[i]!);
      });
    }),
  close: (pane: number) =>
    root.setState((r) =>
      r.panes.length < 2
        ? r
        : { panes: r.panes.filter((_, i) => i !== pane), active: Math.max(0, r.active - (pane <= r.active ? 1 : 0)) },
    ),
  /** The bench as it starts, with some things changed. */
  reset: (change: Partial<Pane & Shared> = {}) => {
    root.setState({ shared: freshShared, panes: [freshPane], active: 0 });
    take(0, change);
  },
};
