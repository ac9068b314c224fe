import { useId, useState } from "react";
import { parse } from "../reading/format";

interface Props {
  label: string;
  value: number;
  onSet: (value: number) => void;
  unit?: string;
  name?: string;
  min?: number;
  max?: number;
  /** Only whole numbers mean something. */
  whole?: boolean;
}

/** Why a number that was typed cannot be taken; '' where it can. */
export function refusal(typed: number | null, min?: number, max?: number, whole = false): string {
  if (typed === null) return "This is no number.";
  if (whole && !Number.isInteger(typed)) return "A whole number.";
  if (min !== undefined && max !== undefined && (typed < min || typed > max)) return `From ${min} to ${max}.`;
  if (min !== undefined && typed < min) return `At least ${min}.`;
  if (max !== undefined && typed > max) return `At most ${max}.`;
  return "";
}

/** A number that is taken when Enter is pressed or the field is left; one that cannot be stays, with the reason, until Escape. */
export function NumberField({ label, value, onSet, unit, name, min, max, whole }: Props) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const id = useId();
  const shown = Number(value.toPrecision(8)).toString();
  const finish = () => {
    if (text === null) return;
    const typed = parse(text);
    const why = text.trim() === "" ? "" : refusal(typed, min, max, whole);
    setWrong(why);
    if (why) return;
    if (typed !== null && typed !== value) onSet(typed);
    setText(null);
  };
  return (
    <label className="row-line">
      {label}
      <span className="with-unit">
        <input
          className={`form-control form-control-sm fig ${wrong ? "is-wrong" : ""}`}
          inputMode="decimal"
          aria-label={name ?? label}
          aria-invalid={wrong ? true : undefined}
          aria-describedby={wrong ? id : undefined}
          value={text ?? shown}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => {
            if (e.key === "Escape" && wrong) {
              e.stopPropagation();
              setText(null);
              setWrong("");
            }
            if (e.key !== "Enter") return;
            // It is taken here; a form around it is not sent by it.
            e.preventDefault();
            finish();
          }}
        />
        {unit}
        {wrong && (
          <span className="wrong" id={id} role="alert">
            {wrong}
          </span>
        )}
      </span>
    </label>
  );
}
