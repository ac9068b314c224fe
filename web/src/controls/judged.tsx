import { type KeyboardEvent, useId, useState } from "react";

/** A text that is taken when Enter is pressed or the field is left; what cannot be taken stays as typed, with the reason, until Escape.
 * take: takes it and answers '', or why it cannot be. */
export function useJudged(shown: string, take: (text: string) => string) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const id = useId();
  const finish = () => {
    if (text === null) return;
    const why = take(text);
    setWrong(why);
    if (!why) setText(null);
  };
  const input = {
    className: `form-control form-control-sm fig ${wrong ? "is-wrong" : ""}`,
    "aria-invalid": wrong ? true : undefined,
    "aria-describedby": wrong ? id : undefined,
    value: text ?? shown,
    onChange: (e: { target: { value: string } }) => setText(e.target.value),
    onBlur: finish,
    onKeyDown: (e: KeyboardEvent) => {
      if (e.key === "Escape" && wrong) {
        e.stopPropagation();
        setText(null);
        setWrong("");
      }
      if (e.key !== "Enter") return;
      // It is taken here; a form around it is not sent by it.
      e.preventDefault();
      finish();
    },
  } as const;
  const fault = wrong && (
    <span className="wrong" id={id} role="alert">
      {wrong}
    </span>
  );
  return { input, fault };
}
