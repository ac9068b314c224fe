import { Fragment } from "react";
import { api, ask, type FieldInfo, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { Chooser } from "../reading/Chooser";

const place: Record<string, string> = { gauss: "Gauss point" };

/** States an entry of fields: one name of an entry, one value. */
export function useEntries(result: number) {
  return useChange((body: Schemas["FieldEntryIn"]) =>
    ask(api.PUT("/api/results/{result}/fields", { params: { path: { result } }, body })),
  );
}

/** One entry as a word that opens what it can be, with how it came to stand so. */
export function EntryWord({
  entry,
  of,
  onChoose,
}: {
  entry: Schemas["EntryOut"];
  of: string;
  onChoose: (value: string) => void;
}) {
  return (
    <>
      {entry.before && `${entry.before} `}
      <Chooser
        label={entry.label}
        title={`${entry.title} of ${of}`}
        className={`word-plain ${entry.doubtful ? "doubt" : ""}`}
        choices={entry.ways}
        value={entry.value}
        onChoose={onChoose}
      />
      {(entry.state === "guessed" || entry.state === "found") && (
        <span className={entry.state === "found" ? "guess guess-found" : "guess"}>{entry.state}</span>
      )}
    </>
  );
}

/** What a field was taken for; every part that may be wrong can be corrected right there. */
export function FieldEntry({ result, field, onStated }: { result: number; field: FieldInfo; onStated: () => void }) {
  const change = useEntries(result);
  if (field.recovered)
    return (
      <small>
        {field.kind}, {field.rank} at each {place[field.location] ?? field.location}{" "}
        <b className="doubt">recovered here</b>: {field.recovered}
      </small>
    );
  const word = (entry: Schemas["EntryOut"]) => (
    <EntryWord
      entry={entry}
      of={field.name}
      onChoose={(value) =>
        change.mutate({ fields: [field.name], entries: { [entry.name]: value } }, { onSuccess: onStated })
      }
    />
  );
  const first = field.entries.find((e) => e.name === "kind");
  const others = field.entries.filter((e) => e !== first);
  return (
    <small>
      {first ? word(first) : `${field.kind || "names something"}, never averaged`}, {field.rank} at each{" "}
      {field.points ? `of ${field.points} Gauss points` : (place[field.location] ?? field.location)}
      {field.layers > 0 && ` in each of ${field.layers} layers`}
      {field.harmonic && ", a harmonic"}, {field.precision} precision
      {others.map((entry) => (
        <Fragment key={entry.name}>, {word(entry)}</Fragment>
      ))}
    </small>
  );
}
