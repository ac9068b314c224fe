import { useState } from "react";
import { parse } from "../reading/format";

interface Props {
  label: string;
  value: number;
  onSet: (value: number) => void;
  unit?: string;
  name?: string;
  min?: number;
}

/** A number that is taken when Enter is pressed or the field is left; what is no number is put back. */
export function NumberField({ label, value, onSet, unit, name, min }: Props) {
  const [text, setText] = useState<string | null>(null);
  const shown = Number(value.toPrecision(8)).toString();
  const finish = () => {
    const typed = text === null ? null : parse(text);
    if (typed !== null && typed !== value && (min === undefined || typed >= min)) onSet(typed);
    setText(null);
  };
  return (
    <label className="row-line">
      {label}
      <span className="with-unit">
        <input
          className="form-control form-control-sm fig"
          inputMode="decimal"
          aria-label={name ?? label}
          value={text ?? shown}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => {
            if (e.key !== "Enter") return;
            // It is taken here; a form around it is not sent by it.
            e.preventDefault();
            finish();
          }}
        />
        {unit}
      </span>
    </label>
  );
}
