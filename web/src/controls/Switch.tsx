import { Form } from "react-bootstrap";

interface Props {
  id: string;
  label: string;
  on: boolean;
  onSet: (on: boolean) => void;
  disabled?: boolean;
}

/** Something that is on or off. */
export function Switch({ id, label, on, onSet, disabled }: Props) {
  return (
    <Form.Check
      type="switch"
      id={id}
      label={label}
      checked={on}
      disabled={disabled}
      onChange={(e) => onSet(e.target.checked)}
    />
  );
}
