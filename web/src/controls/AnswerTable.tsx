import type { Schemas } from "../api/client";
import { figure } from "../reading/format";

type Cell = string | number | null | undefined;

/** A count as it is, a quantity by its digits, a word as it stands. */
export const told = (value: Cell): string =>
  typeof value === "string" ? value : Number.isInteger(value) ? String(value) : figure(value ?? null);

/** The columns of an answer as a table with a row each; a click on a row may lead somewhere. */
export function AnswerTable({
  columns,
  testid,
  on,
  onRow,
}: {
  columns: Schemas["Column"][];
  testid: string;
  /** The row that is in view. */
  on?: number;
  onRow?: (row: number) => void;
}) {
  const rows = Array.from({ length: columns[0]?.values.length ?? 0 }, (_, i) => i);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is scrolled by keys as well
    <section className="scroll-table" data-testid={testid} tabIndex={0} aria-label={`Table: ${columns[0]?.name ?? ""}`}>
      <table className="figures">
        <thead>
          <tr>
            {columns.map((c) => (
              <th key={c.name}>
                {c.name} {c.unit}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((i) => (
            <tr key={i} className={i === on ? "on" : ""} onClick={onRow && (() => onRow(i))}>
              {columns.map((c) => (
                <td key={c.name} className={typeof c.values[i] === "string" ? "word" : ""}>
                  {told(c.values[i])}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The figures of an answer, each with how it was found on the pointer. */
export function FiguresTable({ figures, testid }: { figures: Schemas["Figure"][]; testid: string }) {
  if (!figures.length) return null;
  return (
    <table className="figures" data-testid={testid}>
      <tbody>
        {figures.map((f) => (
          <tr key={f.label} title={f.how}>
            <td className="word">{f.label}</td>
            <td>
              {figure(f.value, 4)} {f.value !== null && f.unit}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
