import { useState } from "react";
import { Form, Modal } from "react-bootstrap";
import { api, ask, type Schemas } from "../api/client";
import { useChange, useValues } from "../api/queries";
import { benchAddress } from "../bench/address";
import { say, tell } from "../bench/notices";
import { told } from "../bench/readingChoice";
import { usePane } from "../bench/store";
import { Choices } from "../controls/Choices";
import { useView } from "../view/handle";
import type { Offer } from "./offers";
import { pictureOfViews } from "./picture";
import { shownWords } from "./shown";

/** Keeps the view, or what the bay offers: its questions, which the service answers, its picture, and the view it stands in. */
export function KeepDialog({ offers, first, onClose }: { offers: Offer[]; first: string; onClose: () => void }) {
  const pane = usePane();
  const view = useView();
  const values = useValues();
  const ready = offers.filter((o) => o.sentence);
  const [chosen, setChosen] = useState(ready.some((o) => o.name === first) ? first : "view");
  const [title, setTitle] = useState("");
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const keep = useChange((body: Schemas["ExhibitIn"]) => ask(api.POST("/api/exhibits", { body })));
  const offer = offers.find((o) => o.name === chosen);
  const head = values.data?.head;
  const usual = offer ? offer.usual : (head?.sentence.split(",")[0] ?? "Picture");

  const done = async () => {
    setBusy(true);
    try {
      const bench = pane.getState();
      if (!offer && (!head || !bench.reading)) throw new Error("The view is not drawn yet.");
      const ends = { result: bench.result, ...told(bench.reading!), step: bench.step, extremes: true };
      const shown: Schemas["ShownIn"] = {
        of: offer?.of ?? "view",
        questions: offer?.questions ?? [{ kind: "read", words: ends }],
        address: `/?${benchAddress()}`,
      };
      const caption = await shownWords(shown);
      await keep.mutateAsync({
        ...shown,
        title: title.trim() || usual,
        note,
        notes: offer ? [] : view.notes,
        picture: offer ? ((await offer.picture?.(caption)) ?? null) : pictureOfViews(caption),
      });
      say("Kept.");
      onClose();
    } catch (error) {
      if (!keep.isError) tell(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal show onHide={onClose} centered size="sm" aria-labelledby="keep-title">
      <Modal.Body>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void done();
          }}
        >
          <h3 id="keep-title">Keep as exhibit</h3>
          <Choices
            name="What to keep"
            options={[
              { value: "view", label: "the view" },
              ...offers.map((o) => ({ value: o.name, label: o.label, disabled: !o.sentence })),
            ]}
            value={chosen}
            onChoose={setChosen}
          />
          <Form.Control
            className="mt-2"
            size="sm"
            aria-label="Title"
            placeholder={usual}
            maxLength={200}
            value={title}
            onChange={(e) => setTitle(e.target.value)}
          />
          <Form.Control
            className="mt-2"
            size="sm"
            as="textarea"
            rows={3}
            aria-label="Note"
            placeholder="Note"
            maxLength={4000}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <div className="quiet small-line mt-2">{offer ? offer.sentence : head?.sentence}</div>
          <div className="row-line actions mt-2">
            <button type="button" className="ghost" onClick={onClose}>
              Back
            </button>
            <button type="submit" className="btn btn-primary" disabled={busy}>
              {busy ? "Keeping …" : "Keep"}
            </button>
          </div>
        </form>
      </Modal.Body>
    </Modal>
  );
}
