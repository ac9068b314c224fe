import { useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { figure, parse } from "../reading/format";

/** Where the core stands in the key's drawing, and how wide it is. */
export const left = 36;
export const width = 22;

/** An end of the core that can be dragged: the limit moves by the span for each length of the core. */
export function Cap({
  y,
  value,
  span,
  height,
  drag,
  name,
}: {
  y: number;
  value: number;
  span: number;
  height: number;
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

/** A limit, typed; what is no number is put back. */
export function LimitField({
  value,
  digits,
  name,
  className,
  top,
  onSet,
}: {
  value: number;
  digits: number;
  top?: number;
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
      style={{ top, fontSize: digits > 8 ? "10.5px" : undefined }}
      aria-label={name}
      value={text ?? figure(value, digits)}
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
  hidden: string[];
  digits: number;
  go: (xyz: [number, number, number]) => void;
}

/** A highest or lowest value, and where it is; a click brings that place to the middle. */
export function Extreme({ word, at, unit, hidden, digits, go }: ExtProps) {
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
        {figure(at.value, digits)} {unit}
      </b>
      <span>
        {at.element !== null && <>element {at.element}</>}
        {at.element !== null && at.node !== null && ", "}
        {at.node !== null && <>node {at.node}</>}
        {at.part !== null && <>, {at.part}</>}
        {at.part !== null && hidden.includes(at.part) && <> (hidden)</>}
      </span>
    </button>
  );
}
