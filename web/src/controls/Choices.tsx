import type { ReactNode } from "react";

export interface Option<Value> {
  value: Value;
  label: ReactNode;
  title?: string;
  disabled?: boolean;
}

interface Props<Value> {
  /** What is chosen, for those who do not see the row. */
  name: string;
  options: readonly Option<Value>[];
  value: Value | null;
  onChoose: (value: Value) => void;
  className?: string;
}

/** A few choices side by side, the one in force marked. */
export function Choices<Value>({ name, options, value, onChoose, className = "" }: Props<Value>) {
  return (
    <fieldset className={`choice-row ${className}`} aria-label={name}>
      {options.map((o) => (
        <button
          type="button"
          key={String(o.value)}
          className={o.value === value ? "on" : ""}
          aria-pressed={o.value === value}
          title={o.title}
          disabled={o.disabled}
          onClick={() => onChoose(o.value)}
        >
          {o.label}
        </button>
      ))}
    </fieldset>
  );
}

/** Choices whose names are what they are. */
export const named = <Value extends string>(...values: Value[]): Option<Value>[] =>
  values.map((value) => ({ value, label: value }));
