import { useState } from "react";
import { parse } from "../reading/format";

/** A number above zero that may be left as usual. */
export function OptionalNumber({
  label,
  name,
  usual,
  unit,
  value,
  onSet,
}: {
  label: string;
  name: string;
  /** What stands in the empty field. */
  usual: string;
  unit: string;
  value: number | null;
  onSet: (value: number | null) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const finish = () => {
    if (text === null) return;
    const typed = text.trim() === "" ? null : parse(text);
    const refused = text.trim() !== "" && !(typed !== null && typed > 0);
    setWrong(refused);
    if (refused) return;
    if (typed !== value) onSet(typed);
    setText(null);
  };
  return (
    <label className="row-line">
      {label}
      <span className="with-unit">
        <input
          className={`form-control form-control-sm fig ${wrong ? "is-wrong" : ""}`}
          inputMode="decimal"
          aria-label={name}
          aria-invalid={wrong || undefined}
          placeholder={usual}
          value={text ?? (value === null ? "" : String(value))}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => e.key === "Enter" && finish()}
        />
        {unit}
        {wrong && (
          <span className="wrong" role="alert">
            A number above 0, or nothing.
          </span>
        )}
      </span>
    </label>
  );
}
