/** Parts whose names differ in their last number only: "bolt 1", "bolt 2". */
export interface PartGroup {
  stem: string;
  members: number[];
}

/** Groups of three parts and more by the stems of their names, in the order the first of each comes; the rest stand alone. */
export function groupsOf(names: string[]): (PartGroup | number)[] {
  const stem = (name: string) => name.replace(/[\s_.:/-]*\d+$/, "").trim();
  const byStem = new Map<string, number[]>();
  names.forEach((name, i) => {
    const found = stem(name);
    if (found && found !== name) byStem.set(found, [...(byStem.get(found) ?? []), i]);
  });
  const seen = new Set<string>();
  return names.flatMap((name, i): (PartGroup | number)[] => {
    const found = stem(name);
    const members = found !== name ? (byStem.get(found) ?? []) : [];
    if (members.length < 3) return [i];
    if (seen.has(found)) return [];
    seen.add(found);
    return [{ stem: found, members }];
  });
}

/** What is chosen after a click on a row: it alone, it too (control), or all from the last one to it (shift). */
export function chosenAfter(
  chosen: number[],
  last: number | null,
  clicked: number,
  rows: number[],
  keys: { shift: boolean; control: boolean },
): number[] {
  if (keys.shift && last !== null && rows.includes(last)) {
    const [from, to] = [rows.indexOf(last), rows.indexOf(clicked)].sort((a, b) => a - b) as [number, number];
    const run = rows.slice(from, to + 1);
    return keys.control ? [...new Set([...chosen, ...run])] : run;
  }
  if (keys.control) return chosen.includes(clicked) ? chosen.filter((k) => k !== clicked) : [...chosen, clicked];
  return chosen.length === 1 && chosen[0] === clicked ? [] : [clicked];
}
