import type { Contents } from "../api/client";
import { useFlags } from "../api/marks";

/** What a place may be: sets, and the nodes that are flagged. */
export function Places({ id, contents }: { id: string; contents: Contents }) {
  const flags = useFlags(contents.id);
  return (
    <datalist id={id}>
      {contents.sets.map((s) => (
        <option key={s.name} value={`set:${s.name}`} />
      ))}
      {(flags.data ?? [])
        .filter((f) => f.node !== null)
        .map((f) => (
          <option key={f.id} value={`node:${f.node}`} />
        ))}
      <option value="element:1" />
      <option value="gauss:1:1" />
    </datalist>
  );
}
