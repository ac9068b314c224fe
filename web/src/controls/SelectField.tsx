import { useId } from "react";
import { Form } from "react-bootstrap";

interface Props {
  label: string;
  name: string;
  value: string;
  options: readonly { value: string; label: string }[];
  onSet: (value: string) => void;
}

/** One of a few named things. */
export function SelectField({ label, name, value, options, onSet }: Props) {
  const id = useId();
  return (
    <div className="row-line">
      <label htmlFor={id}>{label}</label>
      <Form.Select id={id} size="sm" aria-label={name} value={value} onChange={(e) => onSet(e.target.value)}>
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}
