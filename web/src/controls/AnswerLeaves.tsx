import { useState } from "react";
import { type Kind, saveTable, type Words } from "../api/asking";
import { tell } from "../bench/notices";

interface Props<K extends Kind> {
  what: string;
  /** The question whose answer's table it is. */
  kind: K;
  words: Words<K>;
  name: string;
}

/** The table of an answer, as CSV or as a workbook; it may take a while to be worked out. */
export function AnswerLeaves<K extends Kind>({ what, kind, words, name }: Props<K>) {
  const [busy, setBusy] = useState(false);
  const leave = (form: "csv" | "xlsx") => {
    setBusy(true);
    saveTable(kind, words, form, name)
      .catch(tell)
      .finally(() => setBusy(false));
  };
  return (
    <span className="leaves">
      <button type="button" className="link" disabled={busy} onClick={() => leave("csv")}>
        {busy ? `${what} is worked out …` : `${what} CSV`}
      </button>{" "}
      <button type="button" className="link" disabled={busy} aria-label={`${what} XLSX`} onClick={() => leave("xlsx")}>
        XLSX
      </button>
    </span>
  );
}
