import { useId } from "react";
import type { Contents } from "../api/client";
import { useFlags } from "../api/marks";
import { placeFrom } from "../reading/typed";
import { TextField } from "./TextField";

interface Props {
  label: string;
  /** What a reader hears it called. */
  name: string;
  contents: Contents;
  value: string;
  onSet: (place: string) => void;
  className?: string;
}

/** A place: a set by its name, node:12, element:5, or three numbers; sets and flagged nodes are offered. */
export function PlaceField({ label, name, contents, value, onSet, className = "wide-field" }: Props) {
  const list = useId();
  const flags = useFlags(contents.id);
  const sets = contents.sets.map((s) => s.name);
  return (
    <>
      <TextField
        label={label}
        name={name}
        className={className}
        list={list}
        placeholder="node:12 or 20 0 0"
        value={value}
        onSet={(typed) => onSet(placeFrom(typed, sets))}
      />
      <datalist id={list}>
        {sets.map((s) => (
          <option key={s} value={`set:${s}`} />
        ))}
        {(flags.data ?? [])
          .filter((f) => f.node !== null)
          .map((f) => (
            <option key={f.id} value={`node:${f.node}`} />
          ))}
        <option value="element:1" />
        <option value="gauss:1:1" />
      </datalist>
    </>
  );
}
