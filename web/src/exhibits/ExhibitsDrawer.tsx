import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { saveRecipe } from "../api/asking";
import { api, ask, type Exhibit, type Schemas } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useExhibits, useRemoved } from "../api/queries";
import { inThisReview } from "../bench/address";
import { useBench } from "../bench/store";
import { Missing } from "../controls/Missing";
import { Refused } from "../controls/Refused";
import { figure } from "../reading/format";

/** What was kept: each with its picture or table, its reading, a note, and the way back to it. */
export function ExhibitsDrawer() {
  const result = useBench((s) => s.result);
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
      {result !== null && <RecipeLink result={result} />}
      {[...(exhibits.data ?? [])].reverse().map((e) => (
        <Card key={e.id} exhibit={e} />
      ))}
    </div>
  );
}

/** What is kept of the result in view as a recipe: the same is asked of other files by the command run. */
function RecipeLink({ result }: { result: number }) {
  const recipe = useMutation({ mutationFn: () => saveRecipe(result) });
  return (
    <>
      <div className="row-line actions">
        <button
          type="button"
          className="ghost"
          disabled={recipe.isPending}
          title="Its hand checks become values with limits, its exhibits tables; ironstone run asks them of other files"
          onClick={() => recipe.mutate()}
        >
          Keep as recipe
        </button>
        <a
          className="ghost text-decoration-none"
          href="/api/report.html"
          download
          title="Exhibits, results, what was assumed, checks, sources: one HTML file"
        >
          Report
        </a>
      </div>
      {recipe.error && <Refused error={recipe.error} />}
    </>
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
  const again = useMutation({
    mutationFn: () => ask(api.POST("/api/exhibits/{exhibit}/again", { params: { path: { exhibit: e.id } } })),
  });
  const removed = useRemoved(Boolean(e.gone));
  const away = removed.data?.find((r) => r.kind === "result" && r.result === e.result);
  const back = useChange((item: number) => ask(api.POST("/api/removed/{item}", { params: { path: { item } } })));
  const remove = useChange(() => removeKept("exhibit", e.id));
  return (
    <article className={`exhibit ${e.changed ? "exhibit-changed" : ""}`} data-testid={`exhibit-${e.kind}`}>
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
          {e.changed && !again.data && (
            <div className="doubt small-line" role="status" data-testid="changed">
              What is stated of its result has changed since. Ask again to see whether it still holds.
            </div>
          )}
          {again.data && <Again again={again.data} />}
          {again.error && <Refused error={again.error} />}
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
        {e.can_ask && !e.gone && (
          <button type="button" className="link" disabled={again.isPending} onClick={() => again.mutate(undefined)}>
            {again.isPending ? "Asking …" : "Ask again"}
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

/** What an exhibit says when it is asked again, beside what it said. */
function Again({ again }: { again: Schemas["Again"] }) {
  return (
    <div className="again" role="status" data-testid="again">
      <b>{again.said}</b>
      {again.changes.length > 0 && (
        <table className="figures">
          <thead>
            <tr>
              <td />
              <th>then</th>
              <th>now</th>
            </tr>
          </thead>
          <tbody>
            {again.changes.slice(0, 12).map((c) => (
              <tr key={c.what}>
                <td className="word">{c.what}</td>
                <td>{figure(c.then)}</td>
                <td>
                  {figure(c.now)} {c.unit}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {again.verdict_now !== again.verdict_then && again.verdict_now && (
        <div className={`verdict ${again.state_now && `verdict-${again.state_now}`}`}>Now: {again.verdict_now}</div>
      )}
    </div>
  );
}
