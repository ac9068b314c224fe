import { say, tell } from "./notices";

type Cell = string | number | null;

/** Puts a table on the clipboard with a header row and a unit row, tabs between columns. */
export async function copyTable(heads: string[], units: string[], rows: Cell[][]): Promise<void> {
  const text = [heads, units.map((u) => u || ""), ...rows.map((r) => r.map((c) => (c === null ? "" : String(c))))]
    .map((r) => r.join("\t"))
    .join("\n");
  try {
    await navigator.clipboard.writeText(text);
    say("The table is on the clipboard.");
  } catch {
    tell(new Error("The clipboard is closed to this page: use the CSV instead."));
  }
}

/** Longer names of files are cut short at a word. */
const LONGEST = 60;

/** A file's name that says what it is in few words and always ends with its kind. */
export function fileName(name: string, kind: string): string {
  const clean = name
    .replace(/[^\p{L}\p{N}\-_. ]/gu, "_")
    .replace(/\s+/g, " ")
    .trim();
  const short =
    clean.length > LONGEST
      ? clean
          .slice(0, LONGEST + 1)
          .replace(/[ ]\S*$/, "")
          .slice(0, LONGEST)
      : clean;
  return `${short.replace(/[._ ]+$/, "") || "file"}.${kind}`;
}

/** Hands a file to the browser under a name that says what it is. */
export function save(address: string, name: string, kind: string): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = fileName(name, kind);
  link.click();
}
