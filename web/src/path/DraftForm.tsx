import { type Kept, type KeptWords, useKeeping } from "../api/kept";
import { useContents } from "../api/queries";
import { useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { PointField } from "../controls/PointField";
import { SelectField } from "../controls/SelectField";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { kindOf, type LineField, lineKinds, lineWords } from "../lines/kinds";
import { parse } from "../reading/format";

/** The line that is being made: its places, which side it reads, its ends, its name. */
export function DraftForm({ list }: { list: Kept<KeptWords["path"]>[] }) {
  const { result, draft, picks, picking, paths, set } = useBench("result", "draft", "picks", "picking", "paths", "set");
  const contents = useContents(result);
  const { keep, change } = useKeeping("path");
  if (!draft || !contents.data) return null;
  const kind = kindOf(draft.kind);
  const words = lineWords(draft);
  const to = (part: Partial<typeof draft>) => set({ draft: { ...draft, ...part } });
  const unit = contents.data.length_unit;
  const typed = (i: number, v: string) =>
    to({ values: kind.fields.map((_, k) => (k === i ? v : (draft.values[k] ?? ""))) });
  const close = () => set({ draft: null, picks: [], picking: "flag" });
  const done = () => {
    if (!words) return;
    const name = draft.name.trim() || kind.label;
    if (draft.id !== null) change.mutate({ id: draft.id, words: { ...words, name } }, { onSuccess: close });
    else
      keep.mutate(
        { ...words, name, result: result! },
        { onSuccess: (made) => set({ draft: null, picks: [], picking: "flag", paths: [...(paths ?? []), made.id] }) },
      );
  };
  const same = list.some((p) => p.words.name === draft.name.trim() && p.id !== draft.id);
  return (
    <form
      className="draft"
      data-testid="draft"
      onSubmit={(e) => {
        e.preventDefault();
        done();
      }}
    >
      <h3 className="sub">{draft.id === null ? "A new line" : "Changing a line"}</h3>
      <Choices
        name="Kind of line"
        options={lineKinds.map((k) => ({ value: k.kind, label: k.label, title: k.title }))}
        value={draft.kind}
        onChoose={(next) => set({ draft: { ...draft, kind: next, values: [] }, picks: [], picking: "path" })}
      />
      <div className="small-line asks" role="status">
        {kind.most > 1 && picks.length >= kind.most ? "A click starts it anew." : kind.asks(picks.length)}{" "}
        {picking !== "path" && kind.most > 0 && (
          <button type="button" className="link" onClick={() => set({ picking: "path", picks: [] })}>
            Pick again
          </button>
        )}
        {kind.kind === "nodes" && picks.length > 0 && (
          <button
            type="button"
            className="link"
            onClick={() => {
              const fewer = picks.slice(0, -1);
              set({ picks: fewer, draft: { ...draft, values: fewer.length ? kind.picked(fewer, draft.values) : [] } });
            }}
          >
            Take the last back
          </button>
        )}
      </div>
      {kind.fields.map((f, i) => (
        <LineValue key={`${kind.kind} ${f.label}`} field={f} value={draft.values[i] ?? ""} onSet={(v) => typed(i, v)} />
      ))}
      {contents.data.parts.length > 1 && (
        <SelectField
          label="Reads"
          name="Side"
          value={draft.side}
          options={[
            { value: "", label: "any part it meets" },
            ...contents.data.parts.map((p) => ({ value: p.name, label: `${p.name} alone` })),
          ]}
          onSet={(side) => to({ side })}
        />
      )}
      <NumberField
        label="Longer before its start"
        unit={unit}
        value={draft.before}
        onSet={(before) => to({ before })}
      />
      <NumberField label="Longer after its end" unit={unit} value={draft.after} onSet={(after) => to({ after })} />
      <Switch id="draft-reverse" label="Reversed" on={draft.reverse} onSet={(reverse) => to({ reverse })} />
      <div className="row-line">
        <input
          className="form-control form-control-sm name-field"
          aria-label="Name of the line"
          maxLength={80}
          value={draft.name}
          onChange={(e) => to({ name: e.target.value })}
        />
        <button type="submit" className="btn btn-primary btn-sm" disabled={!words || same}>
          Keep
        </button>
        <button type="button" className="ghost" onClick={close}>
          Drop
        </button>
      </div>
      {same && <div className="quiet small-line">Another line has this name.</div>}
    </form>
  );
}

/** One place or number of a line, as it is typed. */
function LineValue({ field, value, onSet }: { field: LineField; value: string; onSet: (value: string) => void }) {
  const { kind, label, optional } = field;
  if (kind === "point" || kind === "direction")
    return (
      <PointField
        className="wide-field"
        label={label}
        value={value}
        direction={kind === "direction"}
        optional={optional}
        onSet={onSet}
      />
    );
  const taken = (v: string) => {
    if (kind === "nodes")
      return v
        .split(/[\s,;]+/)
        .filter(Boolean)
        .join(",");
    return kind === "number" ? String(parse(v) ?? v) : v;
  };
  return (
    <TextField
      className="wide-field"
      label={label}
      name={label}
      placeholder={kind === "nodes" ? "12 14 17" : undefined}
      value={value.split(",").join(", ")}
      onSet={(v) => onSet(taken(v))}
    />
  );
}
