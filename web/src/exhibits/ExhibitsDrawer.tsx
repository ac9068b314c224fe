import { useState } from "react";
import { Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, ask, type Exhibit } from "../api/client";
import { useChange, useExhibits, useRemoved } from "../api/queries";
import { inThisReview } from "../bench/address";
import { Missing } from "../controls/Missing";

/** What was kept: each with its picture or table, its reading, a note, and the way back to it. */
export function ExhibitsDrawer() {
  const exhibits = useExhibits();
  return (
    <div data-testid="exhibits">
      <h3>Exhibits</h3>
      {!exhibits.data?.length && (
        <div className="quiet">
          <Missing
            asked={exhibits}
            reading="Reading the exhibits …"
            empty={
              <>
                Nothing kept yet. <b>Keep as exhibit</b> (key K) stores the view, the curve or the agreement with what
                it is.
              </>
            }
          />
        </div>
      )}
      {[...(exhibits.data ?? [])].reverse().map((e) => (
        <Card key={e.id} exhibit={e} />
      ))}
    </div>
  );
}

function Card({ exhibit: e }: { exhibit: Exhibit }) {
  const navigate = useNavigate();
  const [editing, setEditing] = useState(false);
  const [title, setTitle] = useState(e.title);
  const [note, setNote] = useState(e.note);
  const edit = useChange(() =>
    ask(
      api.PUT("/api/exhibits/{exhibit}", {
        params: { path: { exhibit: e.id } },
        body: { title, note, verdict: e.verdict },
      }),
    ),
  );
  const removed = useRemoved(Boolean(e.gone));
  const away = removed.data?.find((r) => r.kind === "result" && r.result === e.result);
  const back = useChange((item: number) => ask(api.POST("/api/removed/{item}", { params: { path: { item } } })));
  const remove = useChange(() => ask(api.DELETE("/api/exhibits/{exhibit}", { params: { path: { exhibit: e.id } } })));
  return (
    <article className="exhibit" data-testid={`exhibit-${e.kind}`}>
      {e.has_picture && (
        <a href={`/api/exhibits/${e.id}/picture.png`} target="_blank" rel="noreferrer" title="Open the picture">
          <img src={`/api/exhibits/${e.id}/picture.png`} alt={e.sentence} />
        </a>
      )}
      {editing ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            edit.mutate(undefined, { onSuccess: () => setEditing(false) });
          }}
        >
          <Form.Control size="sm" aria-label="Title" value={title} onChange={(x) => setTitle(x.target.value)} />
          <Form.Control
            size="sm"
            className="mt-1"
            as="textarea"
            rows={3}
            aria-label="Note"
            value={note}
            onChange={(x) => setNote(x.target.value)}
          />
          <button type="submit" className="ghost mt-1">
            Keep the change
          </button>
        </form>
      ) : (
        <>
          <b>{e.title}</b>
          <div className="small-line">{e.sentence}</div>
          {e.shown && (
            <div className="small-line" data-testid="shown">
              {e.shown}
            </div>
          )}
          {e.caveats.map((c) => (
            <div className="quiet small-line" key={c}>
              {c}
            </div>
          ))}
          {e.verdict && <div className={`verdict ${e.state && `verdict-${e.state}`}`}>{e.verdict}</div>}
          {e.note && <p className="note">{e.note}</p>}
        </>
      )}
      <div className="row-line actions">
        {e.gone && <span className="doubt">{e.gone}</span>}
        {e.gone && away && (
          <button type="button" className="link" onClick={() => back.mutate(away.id)}>
            Bring the result back
          </button>
        )}
        {e.address && !e.gone && (
          <button type="button" className="link" onClick={() => navigate(inThisReview(e.address))}>
            Go there
          </button>
        )}
        {e.has_picture && (
          <a className="link" download={`${e.title}.png`} href={`/api/exhibits/${e.id}/picture.png`}>
            PNG
          </a>
        )}
        {e.has_table && (
          <a className="link" download={`${e.title}.csv`} href={`/api/exhibits/${e.id}/table.csv`}>
            CSV
          </a>
        )}
        <button type="button" className="link" onClick={() => setEditing(!editing)}>
          {editing ? "Leave" : "Edit"}
        </button>
        <button type="button" className="link" onClick={() => remove.mutate(undefined)}>
          Remove
        </button>
      </div>
    </article>
  );
}
