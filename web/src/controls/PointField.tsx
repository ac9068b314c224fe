import { parsePoint, pointHint, whyNoPoint } from "../reading/typed";
import { useJudged } from "./judged";

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
  const { input, fault } = useJudged(value.split(",").join(", "), (text) => {
    const typed = parsePoint(text);
    if (typed && direction && typed.every((v) => v === 0)) return "A direction has a length: 0 0 0 has none.";
    if (!typed && text.trim() !== "") return whyNoPoint(text);
    if (typed) onSet(typed.join(","));
    else if (optional) onSet("");
    return "";
  });
  return (
    <>
      <label className={`row-line ${className}`}>
        {label}
        <input
          {...input}
          className={`${input.className} point-field`}
          aria-label={name ?? label}
          placeholder={placeholder}
        />
      </label>
      {fault && <div className="fault-below">{fault}</div>}
    </>
  );
}
