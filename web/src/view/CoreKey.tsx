import { measureOf, type Schemas, type ValuesHead } from "../api/client";
import { type ArrowsHead, useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Chooser } from "../reading/Chooser";
import { digitsBetween, figure, percent } from "../reading/format";
import { breakOf, chooseMap, keyPieces, nameColour, type Piece, shareOf } from "../theme/colours";
import { useView } from "./handle";
import { Cap, Extreme, LimitField, left, width } from "./keyEnds";

/** The colour key as a drill core: strata of the scale, and beside them the share of area or volume in each. */
export function CoreKey(props: KeyProps) {
  return props.head.categories ? <NamesKey {...props} categories={props.head.categories} /> : <ScaleKey {...props} />;
}

interface KeyProps {
  head: ValuesHead;
  limits: [number, number];
  arrows: ArrowsHead | undefined;
}

/** Names have a list of colours and no scale: nothing lies between a part and the next. */
function NamesKey({ head, categories, arrows }: KeyProps & { categories: Schemas["CategoryOut"][] }) {
  const most = 22;
  return (
    <div className="core-key names-key" data-testid="core-key" data-names={categories.length}>
      <div className="key-unit-plain">{head.names_of}</div>
      <ul>
        {categories.slice(0, most).map((c) => (
          <li key={c.name}>
            <span className="swatch" style={{ background: `rgb(${nameColour(c.colour).join(",")})` }} />
            <span className="name" title={c.name}>
              {c.name}
            </span>
            <span className="fig quiet" title="share of the area that is drawn">
              {percent(c.share, 2)}
            </span>
          </li>
        ))}
      </ul>
      {categories.length > most && <div className="key-note">and {categories.length - most} more</div>}
      {head.missing > 0 && (
        <div className="key-note">
          <span className="swatch dots" /> no value
        </div>
      )}
      <ArrowKey arrows={arrows} />
    </div>
  );
}

/** The key of a second reading in the same view: how long an arrow is. */
function ArrowKey({ arrows }: { arrows: ArrowsHead | undefined }) {
  const choice = useBench((s) => s.arrows);
  if (!arrows || !choice) return null;
  return (
    <div className="arrow-key" data-testid="arrow-key">
      <div>
        {arrows.kind === "vector" ? "Arrows" : "Crosses"}: <b>{arrows.field.replaceAll("_", " ")}</b>
      </div>
      <svg width="96" height="14" viewBox="0 0 96 14" role="img" aria-label="An arrow of the longest">
        <title>The longest</title>
        {arrows.kind === "vector" ? (
          <path d="M2 7 H92 M92 7 L80 2 M92 7 L80 12" />
        ) : (
          <path d="M2 7 H40 M2 7 l8 -4 M2 7 l8 4 M40 7 l-8 -4 M40 7 l-8 4 M54 7 H94 M66 7 l-8 -4 M66 7 l-8 4 M82 7 l8 -4 M82 7 l8 4" />
        )}
      </svg>
      {arrows.kind === "cross" && (
        <div className="quiet arrow-words">
          <span>tension</span>
          <span>compression</span>
        </div>
      )}
      <div className="fig">
        longest {figure(arrows.longest)} {arrows.unit}
      </div>
      {arrows.names.map(([name, size]) => (
        <div key={name} className="arrow-set">
          {name}{" "}
          <span className="fig">
            {figure(size)} {arrows.unit}
          </span>
        </div>
      ))}
      <div className="quiet">
        {arrows.at === "sets" ? "resultant of each set" : `${arrows.count} at ${arrows.at}`}
        {arrows.spacing > arrows.asked_spacing * 1.001 && ", thinned: too many to draw"}
      </div>
    </div>
  );
}

/** What stands over the scale: the unit, of what has none the measure itself. */
export const overKey = (head: Pick<ValuesHead, "unit" | "words">) =>
  head.unit || head.words.of?.replace(/ of$/, "") || head.words.measure || "no unit";

function ScaleKey({ head, limits, arrows }: KeyProps) {
  const { key, setKey, result, reading, setReading, look } = useBench(
    "key",
    "setKey",
    "result",
    "reading",
    "setReading",
    "look",
  );
  const view = useView();
  const contents = useContents(result);
  const field = contents.data?.fields.find((f) => f.name === reading?.field);
  const units = measureOf(field, reading?.measure ?? "")?.units ?? [];
  // Room for the key of the arrows below, or for the limits of the materials.
  const height = arrows ? 180 : head.beside?.length ? 224 : 268;
  const [low, high] = limits;
  const map = chooseMap(key.map, head.signed);
  const log = key.log && low > 0;
  const digits = digitsBetween(low, high);
  const bands = key.bands;
  const limit = breakOf(key.map, head.limit);
  const pieces = keyPieces(map, limits, bands, limit, key.log);
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
        label={overKey(head)}
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
        aria-label={`Colour key from ${figure(low, digits)} to ${figure(high, digits)} ${head.unit}`}
      >
        <title>Colour key</title>
        <g transform="translate(0 12)">
          {pieces.map((piece, i) => {
            const y = height * (1 - piece.to);
            const tall = height * (piece.to - piece.from);
            const length = 30 * (shares[i]! / widest);
            return (
              <g key={piece.from}>
                <rect x={left} y={y} width={width} height={tall + 0.6} fill={piece.colour} />
                {length > 0.3 && (
                  <rect
                    className="share"
                    x={left - 4 - length}
                    y={y + 0.5}
                    width={length}
                    height={Math.max(tall - 1, 0.7)}
                  >
                    <title>{`${figure(100 * shares[i]!, 2)} % of the ${key.weigh === "volume" ? "volume" : "area drawn"}`}</title>
                  </rect>
                )}
              </g>
            );
          })}
          <rect className="core" x={left} y={0} width={width} height={height} />
          {limit !== null && limit > low && limit < high && (
            <g className="key-break" data-testid="key-break">
              <path d={`M${left - 3} ${height * (1 - shareOf(limit, limits, key.log))} h${width + 6}`} />
              <text className="fig" x={left + width + 8} y={height * (1 - shareOf(limit, limits, key.log)) + 3.5}>
                {limit} fails
              </text>
            </g>
          )}
          {head.beside
            ?.filter((b) => b.value > low && b.value < high)
            .map((b) => (
              <path
                key={`${b.words} ${b.value}`}
                className="key-beside"
                d={`M${left - 6} ${height * (1 - shareOf(b.value, limits, key.log))} h${width + 12}`}
              >
                <title>{`${b.words} of ${b.materials.join(", ")}: ${figure(b.value, digits)} ${head.unit}`}</title>
              </path>
            ))}
          {Array.from({ length: ticks + 1 }, (_, i) => {
            const y = height * (1 - i / ticks);
            const end = i === 0 || i === ticks;
            return (
              <g key={i}>
                <line className="tick" x1={left + width} x2={left + width + 4} y1={y} y2={y} />
                {!end && !nearBreak(valueAt(i / ticks), limit, high - low) && (
                  <text className="fig" x={left + width + 8} y={y + 3.5}>
                    {figure(valueAt(i / ticks), digitsBetween(low, high, 3))}
                  </text>
                )}
              </g>
            );
          })}
          <Cap
            y={0}
            value={high}
            height={height}
            drag={(v) => v > low && setKey({ high: v, fit: "set", low })}
            span={high - low}
            name="Upper limit"
          />
          <Cap
            y={height}
            value={low}
            height={height}
            drag={(v) => v < high && setKey({ low: v, fit: "set", high })}
            span={high - low}
            name="Lower limit"
          />
        </g>
      </svg>
      <LimitField
        digits={digits}
        className="limit-high"
        value={high}
        name="Upper limit"
        onSet={(v) => v > low && setKey({ high: v, low, fit: "set" })}
      />
      <LimitField
        digits={digits}
        className="limit-low"
        top={34 + height}
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
      {(["highest", "lowest"] as const).map((word) => (
        <Extreme
          key={word}
          word={word}
          at={word === "highest" ? head.max : head.min}
          digits={digitsBetween(head.min?.value, head.max?.value)}
          unit={head.unit}
          hidden={contents.data?.parts.flatMap((p, i) => (look.hidden.includes(i) ? [p.name] : [])) ?? []}
          go={(xyz) => view.goTo?.(xyz)}
        />
      ))}
      {head.beside?.[0] && (
        <Beside beside={head.beside} unit={head.unit} several={(contents.data?.parts.length ?? 0) > 1} />
      )}
      <ArrowKey arrows={arrows} />
    </div>
  );
}

/** The limits stated of the materials: the lowest in words, the others on the pointer. */
function Beside({ beside, unit, several }: { beside: Schemas["LimitBeside"][]; unit: string; several: boolean }) {
  const told = (b: Schemas["LimitBeside"]) =>
    `${b.words} ${figure(b.value, 4)} ${unit}${several ? ` of ${b.materials.join(", ")}` : ""}`;
  const more = beside.length - 1;
  return (
    <div className="key-limit" data-testid="limit-beside" title={beside.map(told).join("; ")}>
      <i className="key-dash" aria-hidden="true" /> {told(beside[0]!)}
      {more > 0 && `, and ${more} more`}
    </div>
  );
}

/** Whether a tick's figure would stand in that of the break. */
const nearBreak = (value: number, limit: number | null, span: number) =>
  limit !== null && Math.abs(value - limit) < 0.06 * span;

function bandShares(head: ValuesHead, low: number, high: number, pieces: Piece[], log: boolean): number[] {
  const from = head.min?.value ?? 0;
  const to = head.max?.value ?? 0;
  const result = new Array<number>(pieces.length).fill(0);
  const fine = head.shares.length;
  for (let i = 0; i < fine; i++) {
    const share = head.shares[i]!;
    if (share === 0) continue;
    const v = from + ((i + 0.5) / fine) * (to - from);
    const t = log ? (v > 0 ? Math.log(v / low) / Math.log(high / low) : 0) : (v - low) / (high - low);
    const found = pieces.findIndex((p) => t < p.to);
    const piece = found < 0 ? pieces.length - 1 : found;
    result[piece] = result[piece]! + share;
  }
  return result;
}
