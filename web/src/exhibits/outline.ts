import { useQuery } from "@tanstack/react-query";
import { api, ask, type Exhibit, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { useChosen } from "./chosen";

export type Chapter = Schemas["ChapterOut"];
type Rearranged = Partial<Schemas["Rearrange"]> & Pick<Schemas["Rearrange"], "what">;

/** The exhibits in their chapters, and the question the review answers. */
export const useOutline = () =>
  useQuery({
    queryKey: ["exhibits", "outline"],
    queryFn: ({ signal }) => ask(api.GET("/api/outline", { signal })),
  });

/** Changes the order, the chapters or the question. */
export const useRearrange = () =>
  useChange((change: Rearranged) =>
    ask(api.POST("/api/outline", { body: { chapter: "", title: "", text: "", ...change } })),
  );

/** The exhibit that is looked at: the chosen one, else the one that was kept last. */
export function useLooked(): Exhibit | undefined {
  const outline = useOutline().data;
  const leaf = useChosen((s) => s.leaf);
  const all = outline?.chapters.flatMap((c) => c.exhibits) ?? [];
  return (
    all.find((e) => e.id === leaf) ?? all.reduce<Exhibit | undefined>((a, b) => (a && a.id > b.id ? a : b), undefined)
  );
}

/** Where a leaf goes that is moved by one place, forwards or back, through the chapters; null where it cannot. */
export function movedBy(chapters: Chapter[], leaf: number, by: 1 | -1): Rearranged | null {
  const at = chapters.findIndex((c) => c.exhibits.some((e) => e.id === leaf));
  if (at < 0) return null;
  const row = chapters[at]!.exhibits.map((e) => e.id);
  const place = row.indexOf(leaf) + by;
  const move = { what: "move" as const, exhibit: leaf };
  if (place >= 0 && place < row.length) {
    const before = by < 0 ? row[place] : row[place + 1];
    return { ...move, chapter: chapters[at]!.title, before: before ?? null };
  }
  const other = chapters[at + by];
  if (!other) return null;
  return { ...move, chapter: other.title, before: by > 0 ? (other.exhibits[0]?.id ?? null) : null };
}
