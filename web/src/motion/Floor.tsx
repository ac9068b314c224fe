import type { AnswerTo } from "../api/asking";
import { figure } from "../reading/format";

/** The value is written in a tile from here on. */
const matters = 0.1;
/** A smaller share than this is no more than a dot. */
const visible = 0.01;

/**
 * Shapes held against each other as a floor of tiles, a row a mode of the one, a column a mode of the other: the filled share of a
 * tile is the value. What belongs together is ringed.
 */
export function Floor({
  answer,
  on,
  onMode,
}: {
  answer: AnswerTo<"mac">;
  /** The mode in view, by its number. */
  on: number;
  onMode: (number: number) => void;
}) {
  const { matrix, pairs, of_frequencies: own, with_frequencies: their } = answer.more;
  const ringed = (row: number, column: number) => pairs.find((p) => p.of === row + 1 && p.with === column + 1);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is scrolled by keys as well
    <section className="floor" data-testid="floor" tabIndex={0} aria-label="Shapes held against each other">
      <table aria-label={answer.sentence}>
        <thead>
          <tr>
            <th scope="col">mode, Hz</th>
            {their.map((f, j) => (
              <th key={j} scope="col">
                <b>{j + 1}</b> {figure(f, 4)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {matrix.map((row, i) => (
            <tr key={i} className={i + 1 === on ? "on" : ""} onClick={() => onMode(i + 1)}>
              <th scope="row">
                <b>{i + 1}</b> {figure(own[i]!, 4)}
              </th>
              {row.map((value, j) => {
                const pair = ringed(i, j);
                const said = value === null ? "no value" : figure(value, 2);
                const words = pair ? `, a pair${pair.together ? " together with the near-equal ones" : ""}` : "";
                return (
                  <td key={j} className={pair ? "pair" : ""} title={`${i + 1} with ${j + 1}: ${said}${words}`}>
                    {(value ?? 0) >= visible && <i style={{ ["--filled" as string]: Math.sqrt(value!) }} />}
                    <span className="fig">{value === null ? "–" : value >= matters ? said : ""}</span>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
