import { useState } from "react";
import { type Kind, saveTable, type Words } from "../api/asking";
import { useContents } from "../api/queries";
import { tell } from "../bench/notices";
import { useBench } from "../bench/store";

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
  const result = useContents(useBench((s) => s.result)).data?.name ?? "";
  const called = name.startsWith(result) ? name : `${result} ${name}`;
  const leave = (form: "csv" | "xlsx") => {
    setBusy(true);
    saveTable(kind, words, form, called)
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
