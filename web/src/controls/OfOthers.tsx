import { CornerDownRight } from "lucide-react";
import { type KeptKind, useOfOthers } from "../api/elsewhere";
import { say } from "../bench/notices";
import { useBench } from "../bench/store";

interface Props {
  kind: KeptKind;
  /** What there is of them, in the plural. */
  what: string;
  /** Told the number of what was taken over. */
  onMade?: (id: number) => void;
}

/** What other meshes of the same body have of a kind, each taken over by place with one act; nothing where they have nothing more. */
export function OfOthers({ kind, what, onMade }: Props) {
  const result = useBench((s) => s.result);
  const { list, take } = useOfOthers(kind, result);
  if (!list.length) return null;
  return (
    <section
      className="of-others"
      aria-label={`${what} of other meshes of this body`}
      data-testid={`of-others-${kind}`}
    >
      <div className="small-line quiet">{what} of other meshes of this body</div>
      {list.map((o) => (
        <div className="part-row" key={o.id}>
          <span className="name" title={`${o.name}, of ${o.of}`}>
            {o.name} <span className="quiet">of {o.of}</span>
          </span>
          <button
            type="button"
            className="link"
            aria-label={`Use ${o.name} of ${o.of} here`}
            disabled={take.isPending}
            onClick={() =>
              take.mutate(o.id, {
                onSuccess: ({ id, notes }) => {
                  say(`${o.name} of ${o.of} is used here.${notes.length ? ` ${notes.join(" ")}` : ""}`);
                  onMade?.(id);
                },
              })
            }
          >
            <CornerDownRight size={12} /> use here
          </button>
        </div>
      ))}
    </section>
  );
}
