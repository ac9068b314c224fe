import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, ask, type Exhibit, type Schemas } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useRemoved } from "../api/queries";
import { inThisReview } from "../bench/address";
import { fileName } from "../bench/clipboard";
import { here } from "../bench/here";
import { tell } from "../bench/notices";
import { Refused } from "../controls/Refused";
import { figure } from "../reading/format";
import { Note } from "./Note";

/** One exhibit: what it is, its note, its verdict, and the way back to it. */
export function Card({ exhibit: e }: { exhibit: Exhibit }) {
  const navigate = useNavigate();
  const leaf = e.has_picture
    ? here(`/api/exhibits/${e.id}/picture.png`)
    : here(`/api/exhibits/${e.id}/leaf?revision=${e.revision}`);
  const [undrawn, setUndrawn] = useState(false);
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
  const photograph = useChange((body: { picture: string | null; said: string }) =>
    ask(api.PUT("/api/exhibits/{exhibit}/photograph", { params: { path: { exhibit: e.id } }, body })),
  );
  const removed = useRemoved(Boolean(e.gone));
  const away = removed.data?.find((r) => r.kind === "result" && r.result === e.result);
  const back = useChange((item: number) => ask(api.POST("/api/removed/{item}", { params: { path: { item } } })));
  const remove = useChange(() => removeKept("exhibit", e.id));
  return (
    <article className={`exhibit ${e.changed ? "exhibit-changed" : ""}`} data-testid={`exhibit-${e.kind}`}>
      {(e.has_picture || e.kind === "view") && !undrawn && (
        <a href={leaf} target="_blank" rel="noreferrer" title="Open the picture">
          <img src={leaf} alt={e.sentence} onError={() => setUndrawn(true)} />
        </a>
      )}
      {e.has_photograph && (
        <figure>
          <img
            src={here(`/api/exhibits/${e.id}/photograph?revision=${e.revision}`)}
            alt={`Photograph: ${e.photographed || e.title}`}
          />
          <figcaption className="small-line">
            Photograph. {e.photographed}{" "}
            <button type="button" className="link" onClick={() => photograph.mutate({ picture: null, said: "" })}>
              Take away
            </button>
          </figcaption>
        </figure>
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
          {e.note && (
            <div className="note">
              <Note blocks={e.note_blocks} />
            </div>
          )}
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
          <a className="link" download={fileName(e.title, "png")} href={here(`/api/exhibits/${e.id}/picture.png`)}>
            PNG
          </a>
        )}
        {e.has_table && (
          <a className="link" download={fileName(e.title, "csv")} href={here(`/api/exhibits/${e.id}/table.csv`)}>
            CSV
          </a>
        )}
        <label className="link">
          Photograph
          <input
            type="file"
            accept="image/png,image/jpeg"
            className="visually-hidden"
            onChange={(event) => {
              const file = event.target.files?.[0];
              event.target.value = "";
              if (file)
                void asAddress(file).then((picture) => photograph.mutate({ picture, said: wordsOf(file) }), tell);
            }}
          />
        </label>
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

/** A file as a data address. */
const asAddress = (file: File): Promise<string> =>
  new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => failed(new Error("The file could not be read."));
    reader.readAsDataURL(file);
  });

/** What a photograph shows, as its file is called. */
const wordsOf = (file: File) => file.name.replace(/\.[^.]*$/, "").replace(/[_-]+/g, " ");
