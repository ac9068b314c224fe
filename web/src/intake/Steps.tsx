import { type FormEvent, useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Contents, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { Section } from "../controls/Section";

/** What the steps stand for, as the files say or as it is stated. */
export function Steps({
  contents: c,
  onStated,
  asked,
}: {
  contents: Contents;
  onStated: () => void;
  /** How often the form was asked for from elsewhere: it opens and takes the keyboard. */
  asked: number;
}) {
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (asked) field.current?.focus();
  }, [asked]);
  const [kind, setKind] = useState(c.steps[0]?.kind === "number" ? "time" : (c.steps[0]?.kind ?? "time"));
  const [values, setValues] = useState("");
  const change = useChange((body: Schemas["StepsIn"]) =>
    ask(api.PUT("/api/results/{result}/steps", { params: { path: { result: c.id } }, body })),
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate({ kind, values }, { onSuccess: onStated });
  };
  const own = c.steps.filter((s) => !s.made_of);
  const first = own[0];
  const last = own[own.length - 1];
  return (
    <Section
      name={asked ? `steps asked ${asked}` : "steps"}
      open={asked > 0}
      summary={
        <>
          Steps <span className="fig">{own.length}</span>{" "}
          <small className="quiet">
            {first?.label}
            {last !== first && ` to ${last?.label}`}
            {c.steps_stated && `, stated: ${c.steps_stated}`}
          </small>
        </>
      }
    >
      <form onSubmit={submit} className="steps-form" data-testid="steps-form">
        <Form.Select size="sm" value={kind} onChange={(e) => setKind(e.target.value)} aria-label="What the steps are">
          {c.step_kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Form.Select>
        <input
          ref={field}
          className="form-control form-control-sm"
          value={values}
          onChange={(e) => setValues(e.target.value)}
          placeholder="0, 0.5, 1 or 0:0.5 or names"
          aria-label="Values of the steps"
        />
        <button
          type="submit"
          className="btn btn-sm btn-outline-secondary"
          disabled={change.isPending || !values.trim()}
        >
          State
        </button>
      </form>
      <small className="quiet">
        A value a step; or the first and the increment (0:0.5); or names, the number in each file's name.
        {c.steps_stated && (
          <>
            {" "}
            <button
              type="button"
              className="link"
              onClick={() => change.mutate({ kind: "", values: "" }, { onSuccess: onStated })}
            >
              as the files say
            </button>
          </>
        )}
      </small>
    </Section>
  );
}
