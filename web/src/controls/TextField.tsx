import { useState } from "react";

interface Props {
  label: string;
  name: string;
  value: string;
  onSet: (v: string) => void;
  list?: string;
  className?: string;
  placeholder?: string;
}

/** A short text, taken when one leaves the field or presses Enter. */
export function TextField({ label, name, value, onSet, list, className = "", placeholder }: Props) {
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    if (text !== null && text.trim() !== value) onSet(text.trim());
    setText(null);
  };
  return (
    <label className={`row-line ${className}`}>
      {label}
      <input
        className="form-control form-control-sm fig"
        aria-label={name}
        list={list}
        placeholder={placeholder}
        value={text ?? value}
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
