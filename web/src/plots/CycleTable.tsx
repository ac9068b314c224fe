import type { Schemas } from "../api/client";
import { useCurve } from "../api/queries";
import { copyTable } from "../bench/clipboard";
import { useBench } from "../bench/store";
import { figure, percent } from "../reading/format";

type Cycle = Schemas["CycleOut"];

/** The cycles of the curve in view; of one that has none its figures. */
export function CycleTable() {
  const found = useCurve();
  const { cycles: only, set } = useBench("cycles", "set");
  if (!found) return null;
  const { loops } = found;
  if (!loops.cycles.length)
    return (
      <div className="cycle-none" data-testid="figures">
        <table className="figures">
          <tbody>
            {found.figures.map((f) => (
              <tr key={f.label} title={f.how}>
                <td>{f.label}</td>
                <td>
                  {figure(f.value)} {f.unit}
                </td>
                <td className="quiet words">{f.how}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {found.figures.length === 0 && (
          <div className="quiet">No full cycle: the driver does not come back to a peak.</div>
        )}
      </div>
    );
  const pick = (n: number) =>
    set({ cycles: only.includes(n) ? only.filter((c) => c !== n) : [...only, n].sort((a, b) => a - b) });
  const repeated = loops.cycles.some((c) => Math.abs((c.retained ?? 1) - 1) > 0.005);
  const columns: {
    name: string;
    unit?: string | null;
    of: (c: Cycle) => string;
    title?: (c: Cycle) => string | undefined;
  }[] = [
    { name: "amplitude", unit: loops.x_unit, of: (c) => `± ${figure(((c.x_peak ?? 0) - (c.x_trough ?? 0)) / 2, 3)}` },
    {
      name: "energy",
      unit: loops.energy_unit,
      of: (c) => figure(c.energy, 4) + (c.closed ? "" : " open"),
      title: (c) =>
        c.closed ? undefined : "The ends differ by more than 2 % of the amplitude: joined by a straight chord.",
    },
    { name: "secant", unit: loops.stiffness_unit, of: (c) => figure(c.secant_stiffness, 3) },
    // What repetition leaves says nothing where no level is repeated, or nothing is lost.
    ...(repeated
      ? [
          {
            name: "kept",
            of: (c: Cycle) => percent(c.retained, 3),
            title: () => "Of the stiffness of the first cycle at its level, from peak to the trough after it",
          },
        ]
      : []),
    ...(loops.yield_at != null
      ? [
          {
            name: "ductility",
            of: (c: Cycle) => figure(c.ductility, 3),
            title: () => `Against the first loading's yield at ${figure(loops.yield_at, 3)} ${loops.x_unit ?? ""}`,
          },
        ]
      : []),
    { name: "damping", of: (c) => figure(c.damping_ratio, 3) },
  ];
  const picked = loops.cycles.map((c, i) => ({ c, i })).filter(({ i }) => !only.length || only.includes(i + 1));
  return (
    <div className="cycle-table" data-testid="cycle-table">
      <table className="figures">
        <thead>
          <tr>
            <th>cycle</th>
            {columns.map(({ name, unit }) => (
              <th key={name}>
                {name} {unit && <span className="fig">{unit}</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {loops.cycles.map((c, i) => (
            <tr key={c.start} className={only.includes(i + 1) ? "on" : ""}>
              <td>
                <button
                  type="button"
                  className="cycle-pick fig"
                  aria-pressed={only.includes(i + 1)}
                  aria-label={`Cycle ${i + 1} alone`}
                  title={
                    only.includes(i + 1)
                      ? "Picked: plot, agreement and tables are of what is picked. A click lets it go."
                      : "Plot, agreement and tables of this cycle alone; several can be picked"
                  }
                  onClick={() => pick(i + 1)}
                >
                  {i + 1}
                </button>
              </td>
              {columns.map(({ name, of, title }) => (
                <td key={name} title={title?.(c)}>
                  {of(c)}
                </td>
              ))}
            </tr>
          ))}
          <tr className="sum">
            <td>
              {only.length ? (
                <button type="button" className="link" title="All cycles again" onClick={() => set({ cycles: [] })}>
                  all
                </button>
              ) : (
                "all"
              )}
            </td>
            {columns.map(({ name }) => (
              <td key={name}>{name === "energy" ? figure(loops.energy_total, 4) : ""}</td>
            ))}
          </tr>
        </tbody>
      </table>
      <button
        type="button"
        className="link"
        onClick={() =>
          copyTable(
            ["cycle", "amplitude", "energy", "secant stiffness", "damping ratio"],
            ["", loops.x_unit ?? "", loops.energy_unit ?? "", loops.stiffness_unit ?? "", "1"],
            picked.map(({ c, i }) => [
              i + 1,
              ((c.x_peak ?? 0) - (c.x_trough ?? 0)) / 2,
              c.energy,
              c.secant_stiffness,
              c.damping_ratio,
            ]),
          )
        }
      >
        Copy table
      </button>
    </div>
  );
}
