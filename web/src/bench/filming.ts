import { create } from "zustand";

/** While a film is taken: what is not in its pictures is not asked for at each of their steps. */
export const useFilming = create<{ on: boolean }>(() => ({ on: false }));
