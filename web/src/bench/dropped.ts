import { create } from "zustand";

/** Files that can be taken in, by their suffixes as the service says them, and what results are called. */
export interface Formats {
  results: string[];
  beside: string[];
  tables: string[];
  titles: string[];
}

export type Kind = "result" | "record" | "gauges" | "laminates";

/** Files that were dropped on the bench and wait for the bay that takes them, or for the analyst to say what they are. */
export const useDropped = create<{ files: File[]; as: Kind | "ask" | null }>(() => ({ files: [], as: null }));

/** What dropped files are by their names: results, a table of which one is to ask, or nothing that is known. */
export function kindOfFiles(names: string[], formats: Formats): "result" | "table" | "laminates" | null {
  const ends = (name: string, suffixes: string[]) => suffixes.some((s) => name.toLowerCase().endsWith(s));
  if (names.some((n) => ends(n, [...formats.results, ...formats.beside]))) return "result";
  if (names.length === 1 && ends(names[0]!, [".json"])) return "laminates";
  return names.length === 1 && ends(names[0]!, formats.tables) ? "table" : null;
}

export const hand = (files: File[], as: Kind | "ask") => useDropped.setState({ files, as });
export const taken = () => useDropped.setState({ files: [], as: null });
