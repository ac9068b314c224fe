import { create } from "zustand";

export type Kind = "result" | "record" | "gauges";

/** Files that were dropped on the bench and wait for the bay that takes them, or for the analyst to say what they are. */
export const useDropped = create<{ files: File[]; as: Kind | "ask" | null }>(() => ({ files: [], as: null }));

const results = /\.(vtu|pvd|pvtu|vtm|vtk|vtkhdf|xdmf|xmf|h5|hdf5|bin|exo|e|ex2|uff|unv)$/i;
const tables = /\.(csv|txt|tsv|dat|xlsx)$/i;

/** What dropped files are by their names: results, a table of which one is to ask, or nothing that is known. */
export function kindOfFiles(names: string[]): "result" | "table" | null {
  if (names.some((n) => results.test(n))) return "result";
  return names.length === 1 && tables.test(names[0]!) ? "table" : null;
}

export const hand = (files: File[], as: Kind | "ask") => useDropped.setState({ files, as });
export const taken = () => useDropped.setState({ files: [], as: null });
