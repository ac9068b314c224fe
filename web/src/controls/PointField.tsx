import { useState } from "react";
import { parsePoint } from "../reading/format";

interface Props {
  label: string;
  /** "x,y,z" */
  value: string;
  onSet: (value: string) => void;
  /** A direction has a length. */
  direction?: boolean;
}

/** Three numbers, taken when Enter is pressed or the field is left; what is no point is put back. */
export function PointField({ label, value, onSet, direction = false }: Props) {
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    const typed = text === null ? null : parsePoint(text);
    if (typed && (!direction || typed.some((v) => v !== 0))) onSet(typed.join(","));
    setText(null);
  };
  return (
    <label className="row-line">
      {label}
      <input
        className="form-control form-control-sm fig point-field"
        aria-label={label}
        value={text ?? value.split(",").join(", ")}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => {
          if (e.key !== "Enter") return;
          // It is taken here; a form around it is not sent by it.
          e.preventDefault();
          finish();
        }}
      />
    </label>
  );
}
