import { parse } from "../reading/format";
import { useJudged } from "./judged";

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
  const shown = Number(value.toPrecision(8)).toString();
  const { input, fault } = useJudged(shown, (text) => {
    const typed = parse(text);
    const why = text.trim() === "" ? "" : refusal(typed, min, max, whole);
    if (!why && typed !== null && typed !== value) onSet(typed);
    return why;
  });
  return (
    <label className="row-line">
      {label}
      <span className="with-unit">
        <input {...input} inputMode="decimal" aria-label={name ?? label} />
        {unit}
        {fault}
      </span>
    </label>
  );
}
