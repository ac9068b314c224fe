import { useBench } from "../bench/store";
import { exposureWords, rank, type StackRow, useStack } from "../lines/strength";
import { figure } from "../reading/format";

/** The stack of an element as a core sample beside the key: plies to scale, their angles as strokes, the failing one marked. */
export function StackCore() {
  const bay = useBench((s) => s.bay);
  const asked = useStack(bay === "strength");
  if (bay !== "strength" || !asked.data) return null;
  const stack = asked.data.more;
  return (
    <div className="stack-core" data-testid="stack-core">
      <div className="stack-head">
        <b>{stack.zone}</b>
        <span className="quiet">element {stack.element}</span>
      </div>
      <StackDrawing rows={stack.plies} thickness={stack.thickness} height={290} />
      <div className="quiet fig">
        {figure(stack.thickness, 3)} {stack.length}
      </div>
    </div>
  );
}

interface Ply {
  position: number;
  sheet: string | null;
  angle: number;
  thickness: number;
  worst: StackRow;
}

/** The plies of a stack, each with its most exposed place. */
function pliesOf(rows: StackRow[]): Ply[] {
  const found: Ply[] = [];
  for (const row of rows) {
    const last = found[found.length - 1];
    if (last?.position === row.position) {
      if (rank(row) > rank(last.worst)) last.worst = row;
    } else found.push({ ...row, worst: row });
  }
  return found;
}

const wide = 62;

/** A stack drawn to scale, the bottom below. */
function StackDrawing({ rows, thickness, height }: { rows: StackRow[]; thickness: number; height: number }) {
  const plies = pliesOf(rows);
  const most = Math.max(...plies.map((p) => rank(p.worst)));
  let z = 0;
  return (
    <svg width="132" height={height + 26} role="img" aria-label={`Stack of ${plies.length} plies, the bottom below`}>
      <title>Stack</title>
      <g transform="translate(2 12)">
        {plies.map((ply) => {
          const tall = (height * ply.thickness) / thickness;
          z += tall;
          const y = height - z;
          const { mode } = ply.worst;
          const fails = rank(ply.worst) >= 1;
          const first = rank(ply.worst) === most && most > 0;
          const state = fails ? "fails" : first ? "first" : "";
          return (
            <g key={ply.position} className={`core-ply ${state}`}>
              <title>
                {`${ply.sheet ?? `ply ${ply.position}`}, ${ply.angle}°: exposure ${exposureWords(ply.worst, 4)}, ${mode}`}
              </title>
              <rect x={0} y={y} width={wide} height={tall} />
              <Strokes y={y} height={tall} angle={ply.angle} />
              {tall > 9 && (
                <text x={wide + 5} y={y + tall / 2 + 3.5}>
                  {ply.sheet ?? ply.position} {fails ? "fails" : first ? "first" : `${figure(ply.angle, 3)}°`}
                </text>
              )}
            </g>
          );
        })}
        <rect className="core-rim" x={0} y={0} width={wide} height={height} />
        <text className="quiet" x={0} y={-4}>
          top
        </text>
        <text className="quiet" x={0} y={height + 11}>
          bottom
        </text>
      </g>
    </svg>
  );
}

/** Strokes along the fibres of a ply, level for 0 degrees. */
function Strokes({ y, height, angle }: { y: number; height: number; angle: number }) {
  const turn = (angle * Math.PI) / 180;
  const reach = Math.min(height - 3, 11) / 2;
  if (reach < 1.5) return null;
  const [dx, dy] = [Math.cos(turn) * reach * 1.4, Math.sin(turn) * reach];
  const middle = y + height / 2;
  return (
    <>
      {[0.14, 0.38, 0.62, 0.86].map((share) => (
        <line key={share} x1={share * wide - dx} x2={share * wide + dx} y1={middle + dy} y2={middle - dy} />
      ))}
    </>
  );
}
