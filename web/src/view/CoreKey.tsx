import { useRef, useState } from "react";
import { measureOf, type Schemas, type ValuesHead } from "../api/client";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Chooser } from "../reading/Chooser";
import { figure, parse } from "../reading/format";
import { chooseMap, colourAt } from "../theme/colours";

const height = 268;
const left = 36;
const width = 22;

/** The colour key as a drill core: strata of the scale, and beside them the share of the skin's area in each. */
export function CoreKey({ head, limits }: { head: ValuesHead; limits: [number, number] }) {
  const { key, setKey, set, result, reading, setReading } = useBench();
  const contents = useContents(result);
  const field = contents.data?.fields.find((f) => f.name === reading?.field);
  const units = measureOf(field, reading?.measure ?? "")?.units ?? [];
  const [low, high] = limits;
  const map = chooseMap(key.map, head.signed);
  const log = key.log && low > 0;
  const bands = key.bands;
  const pieces = bands > 0 ? bands : 64;
  const shares = bandShares(head, low, high, pieces, log);
  const widest = Math.max(...shares, 1e-9);
  const valueAt = (share: number) => (log ? low * (high / low) ** share : low + share * (high - low));
  const ticks = bands > 0 && bands <= 12 ? bands : 8;
  const outside =
    (head.max?.value ?? high) > high * (1 + 1e-9) + 1e-12 ||
    (head.min?.value ?? low) < low - Math.abs(low) * 1e-9 - 1e-12;
  return (
    <div className="core-key" data-testid="core-key" data-low={low} data-high={high}>
      <Chooser
        label={head.unit || "pure number"}
        title="Unit"
        className="key-unit"
        choices={units.map((u) => ({ value: u, label: u || "pure number" }))}
        value={head.unit}
        onChoose={(unit) => setReading({ unit })}
      />
      <svg
        width="124"
        height={height + 24}
        role="img"
        aria-label={`Colour key from ${figure(low)} to ${figure(high)} ${head.unit}`}
      >
        <title>Colour key</title>
        <g transform="translate(0 12)">
          {Array.from({ length: pieces }, (_, i) => {
            const y = height * (1 - (i + 1) / pieces);
            const length = 30 * (shares[i]! / widest);
            return (
              <g key={i}>
                <rect
                  x={left}
                  y={y}
                  width={width}
                  height={height / pieces + 0.6}
                  fill={colourAt(map, (i + 0.5) / pieces, bands)}
                />
                {length > 0.3 && (
                  <rect
                    className="share"
                    x={left - 4 - length}
                    y={y + 0.5}
                    width={length}
                    height={Math.max(height / pieces - 1, 0.7)}
                  >
                    <title>{`${figure(100 * shares[i]!, 2)} % of the skin`}</title>
                  </rect>
                )}
              </g>
            );
          })}
          <rect className="core" x={left} y={0} width={width} height={height} />
          {Array.from({ length: ticks + 1 }, (_, i) => {
            const y = height * (1 - i / ticks);
            const end = i === 0 || i === ticks;
            return (
              <g key={i}>
                <line className="tick" x1={left + width} x2={left + width + 4} y1={y} y2={y} />
                {!end && (
                  <text className="fig" x={left + width + 8} y={y + 3.5}>
                    {figure(valueAt(i / ticks), 3)}
                  </text>
                )}
              </g>
            );
          })}
          <Cap
            y={0}
            value={high}
            drag={(v) => v > low && setKey({ high: v, fit: "set", low })}
            span={high - low}
            name="Upper limit"
          />
          <Cap
            y={height}
            value={low}
            drag={(v) => v < high && setKey({ low: v, fit: "set", high })}
            span={high - low}
            name="Lower limit"
          />
        </g>
      </svg>
      <LimitField
        className="limit-high"
        value={high}
        name="Upper limit"
        onSet={(v) => v > low && setKey({ high: v, low, fit: "set" })}
      />
      <LimitField
        className="limit-low"
        value={low}
        name="Lower limit"
        onSet={(v) => v < high && setKey({ low: v, high, fit: "set" })}
      />
      {outside && (
        <div className="key-note">
          <span className="swatch hatch" /> outside the limits
        </div>
      )}
      {head.missing > 0 && (
        <div className="key-note">
          <span className="swatch dots" /> no value
        </div>
      )}
      <Ext word="highest" at={head.max} unit={head.unit} go={(xyz) => set({ goTo: { xyz, count: Date.now() } })} />
      <Ext word="lowest" at={head.min} unit={head.unit} go={(xyz) => set({ goTo: { xyz, count: Date.now() } })} />
    </div>
  );
}

function bandShares(head: ValuesHead, low: number, high: number, pieces: number, log: boolean): number[] {
  const from = head.min?.value ?? 0;
  const to = head.max?.value ?? 0;
  const result = new Array<number>(pieces).fill(0);
  const fine = head.shares.length;
  for (let i = 0; i < fine; i++) {
    const share = head.shares[i]!;
    if (share === 0) continue;
    const v = from + ((i + 0.5) / fine) * (to - from);
    const t = log ? (v > 0 ? Math.log(v / low) / Math.log(high / low) : 0) : (v - low) / (high - low);
    const piece = Math.min(pieces - 1, Math.max(0, Math.floor(t * pieces)));
    result[piece] = result[piece]! + share;
  }
  return result;
}

/** An end of the core that can be dragged: the limit moves by the span for each length of the core. */
function Cap({
  y,
  value,
  span,
  drag,
  name,
}: {
  y: number;
  value: number;
  span: number;
  drag: (v: number) => void;
  name: string;
}) {
  const from = useRef<{ y: number; value: number; span: number } | null>(null);
  return (
    <rect
      className="cap"
      x={left - 3}
      y={y - 4}
      width={width + 6}
      height={8}
      rx={3}
      onPointerDown={(e) => {
        (e.target as Element).setPointerCapture(e.pointerId);
        from.current = { y: e.clientY, value, span };
      }}
      onPointerMove={(e) => {
        if (from.current) drag(from.current.value - ((e.clientY - from.current.y) / height) * from.current.span);
      }}
      onPointerUp={() => {
        from.current = null;
      }}
    >
      <title>{`${name}: drag`}</title>
    </rect>
  );
}

function LimitField({
  value,
  name,
  className,
  onSet,
}: {
  value: number;
  name: string;
  className: string;
  onSet: (v: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    const typed = text === null ? null : parse(text);
    if (typed !== null) onSet(typed);
    setText(null);
  };
  return (
    <input
      className={`limit fig ${className}`}
      aria-label={name}
      value={text ?? figure(value, 4)}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={finish}
      onKeyDown={(e) => {
        if (e.key === "Enter") (e.target as HTMLInputElement).blur();
        if (e.key === "Escape") {
          e.stopPropagation();
          setText(null);
        }
      }}
    />
  );
}

interface ExtProps {
  word: string;
  at: Schemas["ExtremeOut"] | null;
  unit: string;
  go: (xyz: [number, number, number]) => void;
}

function Ext({ word, at, unit, go }: ExtProps) {
  if (!at) return <div className="ext">{word}: no value</div>;
  return (
    <button
      type="button"
      className="ext"
      data-testid={`ext-${word}`}
      title="Bring this place to the middle"
      onClick={() => go(at.xyz as [number, number, number])}
    >
      {word}{" "}
      <b className="fig">
        {figure(at.value)} {unit}
      </b>
      <span>
        {at.element !== null && <>element {at.element}</>}
        {at.element !== null && at.node !== null && ", "}
        {at.node !== null && <>node {at.node}</>}
      </span>
    </button>
  );
}
