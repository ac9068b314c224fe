import { useId, useState } from "react";
import { parsePoint, pointHint, whyNoPoint } from "../reading/typed";

interface Props {
  label: string;
  /** "x,y,z"; "" none yet. */
  value: string;
  onSet: (value: string) => void;
  /** A direction has a length. */
  direction?: boolean;
  /** It may be left empty. */
  optional?: boolean;
  /** What a reader hears it called, where the label alone does not say it. */
  name?: string;
  className?: string;
  /** What an empty one means, where that is not how a point is typed. */
  placeholder?: string;
}

/** Three numbers, taken when Enter is pressed or the field is left; what is no point stays as typed, with what is wrong under it. */
export function PointField({
  label,
  value,
  onSet,
  direction = false,
  optional = false,
  name,
  className = "",
  placeholder = pointHint,
}: Props) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const why = useId();
  const finish = () => {
    if (text === null) return;
    const typed = parsePoint(text);
    const empty = text.trim() === "";
    const fault = typed
      ? direction && typed.every((v) => v === 0)
        ? "A direction has a length: 0 0 0 has none."
        : ""
      : empty
        ? ""
        : whyNoPoint(text);
    setWrong(fault);
    if (fault) return;
    if (typed) onSet(typed.join(","));
    else if (optional) onSet("");
    setText(null);
  };
  return (
    <>
      <label className={`row-line ${className}`}>
        {label}
        <input
          className={`form-control form-control-sm fig point-field ${wrong ? "is-invalid" : ""}`}
          aria-label={name ?? label}
          aria-invalid={wrong ? true : undefined}
          aria-describedby={wrong ? why : undefined}
          placeholder={placeholder}
          value={text ?? value.split(",").join(", ")}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => {
            if (e.key === "Escape" && text !== null) {
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
      </label>
      {wrong && (
        <div id={why} className="field-fault" role="alert">
          {wrong}
        </div>
      )}
    </>
  );
}
