import { create } from "zustand";

export type Bay = "intake" | "field" | "trace" | "exhibits";
export type Averaging = "off" | "element" | "part" | "material" | "all";
export type Of = "value" | "jump" | "jump-within-material";
export type Fit = "step" | "all" | "set";
export type MapName = "auto" | "batlow" | "vik" | "lapaz" | "broc";

/** The reading in view, without its step. */
export interface ReadingChoice {
  field: string;
  measure: string;
  averaging: Averaging;
  order: "components" | "measure";
  region: string;
  unit: string | null;
  /** The value itself, or how far it jumps between the elements that meet at a node. */
  of: Of;
}

export interface KeyChoice {
  low: number | null;
  high: number | null;
  fit: Fit;
  bands: number;
  map: MapName;
  log: boolean;
}

export interface Camera {
  position: [number, number, number];
  target: [number, number, number];
  zoom: number;
}

export interface BenchState {
  bay: Bay;
  result: number | null;
  reading: ReadingChoice | null;
  step: number;
  exaggeration: number;
  meshLines: boolean;
  undeformed: boolean;
  key: KeyChoice;
  camera: Camera | null;
  strata: boolean;
  strataHeight: number;
  tab: string;
  playing: boolean;
  speed: number;
  pairing: number | null;
  test: number | null;
  /** A place the view is asked to go to: counts up so that the same place can be asked for twice. */
  goTo: { xyz: [number, number, number]; count: number } | null;
  fitCount: number;
  set: (change: Partial<BenchState>) => void;
  setKey: (change: Partial<KeyChoice>) => void;
  setReading: (change: Partial<ReadingChoice>) => void;
}

export const freshKey: KeyChoice = { low: null, high: null, fit: "step", bands: 9, map: "auto", log: false };

export const useBench = create<BenchState>((set) => ({
  bay: "field",
  result: null,
  reading: null,
  step: 0,
  exaggeration: 1,
  meshLines: true,
  undeformed: true,
  key: freshKey,
  camera: null,
  strata: true,
  strataHeight: 232,
  tab: "loop",
  playing: false,
  speed: 10,
  pairing: null,
  test: null,
  goTo: null,
  fitCount: 0,
  set: (change) => set(change),
  setKey: (change) => set((s) => ({ key: { ...s.key, ...change } })),
  setReading: (change) =>
    set((s) => {
      if (!s.reading) return {};
      const reading = { ...s.reading, ...change };
      // A jump is taken of values as computed: averaging ends it.
      if (reading.averaging !== "off") reading.of = "value";
      // A unit belongs to a measure: another measure starts in its own.
      if (change.measure !== undefined && change.unit === undefined && change.measure !== s.reading.measure)
        reading.unit = null;
      const other =
        reading.field !== s.reading.field ||
        reading.measure !== s.reading.measure ||
        reading.unit !== s.reading.unit ||
        reading.of !== s.reading.of;
      // Limits belong to a field, measure and unit; averaging keeps them so that two averagings can be compared.
      return { reading, key: other ? { ...s.key, low: null, high: null, fit: "step", log: false } : s.key };
    }),
}));
