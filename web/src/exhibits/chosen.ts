import { create } from "zustand";

interface Chosen {
  /** The leaf that is looked at; null: the one that was kept last. */
  leaf: number | null;
  /** Of one result alone; null: of all. */
  of: number | null;
  /** The model lies open in place of the leaves. */
  model: boolean;
}

/** What of the exhibits is looked at. */
export const useChosen = create<Chosen>(() => ({ leaf: null, of: null, model: false }));
