import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { useChange, useContents, useRemoved, useReview } from "../api/queries";
import { say } from "../bench/notices";
import { useBench, usePane } from "../bench/store";
import { RemoveButton } from "../controls/RemoveButton";
import { RenameField } from "../controls/RenameField";
import { Section } from "../controls/Section";
import { turnToResult } from "../lines/turning";
import { figure } from "../reading/format";

/** The results of the review: shown, renamed, removed. */
export function Results() {
  const { result, open } = useBench("result", "open");
  const client = useQueryClient();
  const pane = usePane();
  const review = useReview();
  const [editing, setEditing] = useState<number | null>(null);
  const away = useChange((id: number) =>
    ask(api.DELETE("/api/results/{result}", { params: { path: { result: id } } })),
  );
  const rename = useChange(({ id, name }: { id: number; name: string }) =>
    ask(api.PUT("/api/results/{result}/name", { params: { path: { result: id } }, body: { name } })),
  );
  const results = review.data?.results ?? [];
  const remove = (id: number) => {
    // What is in view is left first: nothing more is asked of what is going.
    const other = results.filter((r) => r.id !== id && !r.arriving).at(-1);
    if (id === result && other) open(other.id);
    away.mutate(id);
  };
  if (!results.length) return null;
  return (
    <>
      <h3 className="sub">Results</h3>
      <div data-testid="results">
        {results.map((r) => (
          <div className={`part-row ${r.id === result ? "chosen-row" : ""}`} key={r.id}>
            {editing === r.id ? (
              <RenameField
                what={r.name}
                onDone={(name) => {
                  setEditing(null);
                  if (name) rename.mutate({ id: r.id, name });
                }}
              />
            ) : (
              <>
                <button
                  type="button"
                  className="name link-plain"
                  aria-current={r.id === result}
                  onClick={() => void turnToResult(client, pane, r.id)}
                >
                  {r.name}
                </button>
                {!r.arriving && (
                  <>
                    <button
                      type="button"
                      className="link"
                      aria-label={`Rename ${r.name}`}
                      onClick={() => setEditing(r.id)}
                    >
                      rename
                    </button>
                    <RemoveButton what={r.name} onRemove={() => remove(r.id)} />
                  </>
                )}
              </>
            )}
          </div>
        ))}
      </div>
    </>
  );
}

/** What was removed, however long ago: each can be brought back by itself. */
export function RemovedList() {
  const result = useBench((s) => s.result);
  const contents = useContents(result);
  const removed = useRemoved();
  const client = useQueryClient();
  const back = useChange((item: number) => ask(api.POST("/api/removed/{item}", { params: { path: { item } } })));
  const setBack = useChange(async (name: string) => {
    await ask(
      api.POST("/api/results/{result}/sets/{name}/back", { params: { path: { result: contents.data!.id, name } } }),
    );
    await client.invalidateQueries();
  });
  const sets = contents.data?.removed_sets ?? [];
  const count = (removed.data?.length ?? 0) + sets.length;
  if (!count) return null;
  return (
    <Section
      name="removed"
      testid="removed"
      summary={
        <>
          Removed <span className="fig">{count}</span>
        </>
      }
    >
      {removed.data?.map((r) => (
        <div className="part-row" key={r.id}>
          <span className="name">{r.what}</span>
          <button
            type="button"
            className="link"
            aria-label={`Bring back ${r.what}`}
            disabled={back.isPending}
            onClick={() => back.mutate(r.id)}
          >
            bring back
          </button>
        </div>
      ))}
      {sets.map((name) => (
        <div className="part-row" key={name}>
          <span className="name">
            Set '{name}' of {contents.data!.name}
          </span>
          <button
            type="button"
            className="link"
            aria-label={`Bring back set ${name}`}
            onClick={() => setBack.mutate(name)}
          >
            bring back
          </button>
        </div>
      ))}
      {!!removed.data?.length && <DiscardAll />}
    </Section>
  );
}

/** Removes for good what was removed already: first asked, with how much it is. */
function DiscardAll() {
  const [asked, setAsked] = useState(false);
  const size = useQuery({
    queryKey: ["removed", "size"],
    queryFn: () => ask(api.GET("/api/removed/size")),
    enabled: asked,
  });
  const discard = useChange(() => ask(api.DELETE("/api/removed")));
  if (!asked)
    return (
      <button type="button" className="link" onClick={() => setAsked(true)}>
        Discard all for good …
      </button>
    );
  return (
    <div className="row-line" role="group" aria-label="Discard all that was removed">
      <span>{size.data ? `${figure(size.data.bytes / 1e6, 3)} MB` : "…"} go for good. This cannot be undone.</span>
      <button
        type="button"
        className="btn btn-sm btn-outline-secondary"
        disabled={!size.data || discard.isPending}
        onClick={() =>
          discard.mutate(undefined, {
            onSuccess: (done) => {
              setAsked(false);
              say(`${figure(done.bytes / 1e6, 3)} MB given back.`);
            },
          })
        }
      >
        Discard
      </button>
      <button type="button" className="link" onClick={() => setAsked(false)}>
        keep
      </button>
    </div>
  );
}
