import { useState } from "react";
import { Form, Modal } from "react-bootstrap";
import { api, ask, type Schemas, type TraceSpec } from "../api/client";
import { tableOf } from "../api/kept";
import { useChange, useCurve, useMatch, useOverlay, useValues } from "../api/queries";
import { toAddress } from "../bench/address";
import { say, tell } from "../bench/notices";
import { useBench, usePane } from "../bench/store";
import { Choices } from "../controls/Choices";
import { useGauges, useGaugeWords } from "../lines/gauges";
import { useProfiles } from "../lines/profiles";
import { useEnvelope, useEnvelopeWords, useStack, useStackWords, useTested, useTestedWords } from "../lines/strength";
import { loopPlot } from "../plots/curves";
import { plotPicture } from "../plots/Plot";
import { firstOf, profileFigure } from "../plots/ProfilePlot";
import { envelopeFigure, testedFigure } from "../plots/StrengthPlots";
import { useView } from "../view/handle";
import { pictureOfView } from "./picture";
import { shownOf, shownWords } from "./shown";

/** What a side of a curve is of, in a word; its sentence says the rest. */
const wordOf = ({ curve, field }: TraceSpec) =>
  (curve?.replace(/^total:/, "").replace(/^step$/, "the steps") || field || "").replaceAll("_", " ");

type Kind = "view" | "curve" | "table" | "profile" | "gauges" | "stack" | "envelope" | "tested";

/** What of plies can be kept: each answer with the words it was asked by, and its picture where it has one. */
function usePlyAnswers(wanted: boolean) {
  const step = useBench((s) => s.step);
  const stack = { words: useStackWords(wanted), answer: useStack(wanted).data, figure: null };
  const envelope = useEnvelope(wanted).data;
  const tested = useTested(wanted).data;
  return {
    stack,
    envelope: {
      words: useEnvelopeWords(wanted),
      answer: envelope,
      figure: envelope ? envelopeFigure(envelope, step) : null,
    },
    tested: { words: useTestedWords(wanted), answer: tested, figure: tested ? testedFigure(tested) : null },
  };
}

/** Keeps the view, the curve or the agreement, each with its reading as caption and the address that reopens it. */
export function KeepDialog({ onClose }: { onClose: () => void }) {
  // What is kept is what is in view while this stands over it.
  const bench = usePane().getState();
  const view = useView();
  const values = useValues();
  const pairing = useCurve();
  const match = useMatch(pairing?.id ?? null, bench.test);
  const overlay = useOverlay(pairing?.id ?? null, bench.test);
  const profiles = useProfiles(bench.bay === "path").filter((p) => p.answer);
  const gaugeWords = useGaugeWords();
  const gauges = useGauges(bench.bay === "path").data;
  const ofPlies = usePlyAnswers(bench.bay === "strength");
  const [kind, setKind] = useState<Kind>(bench.bay === "trace" && pairing ? "curve" : "view");
  const [title, setTitle] = useState("");
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const keep = useChange((body: Schemas["ExhibitIn"]) => ask(api.POST("/api/exhibits", { body })));
  const usual: Record<Kind, string> = {
    view: values.data?.head.sentence.split(",")[0] ?? "Picture",
    curve: pairing ? `${pairing.name}: ${wordOf(pairing.y_spec)} against ${wordOf(pairing.x_spec)}` : "Curve",
    table: "Agreement with the test",
    profile: profiles.length ? firstOf(profiles).label : "Profile",
    gauges: "Gauges",
    stack: "Stack through the thickness",
    envelope: "Envelope with coupons",
    tested: "Predicted against tested",
  };
  const plies = kind === "stack" || kind === "envelope" || kind === "tested" ? ofPlies[kind] : undefined;
  const answered =
    kind === "profile" && profiles.length
      ? firstOf(profiles).answer
      : kind === "gauges"
        ? gauges
        : (plies?.answer ?? undefined);
  const sentenceOf =
    kind === "view"
      ? values.data?.head.sentence
      : answered
        ? answered.sentence
        : pairing
          ? `${pairing.y.sentence}; against ${pairing.x.sentence}`
          : "";
  const done = async () => {
    setBusy(true);
    try {
      const of: Schemas["ExhibitIn"]["kind"] =
        kind === "profile" || kind === "envelope"
          ? "curve"
          : kind === "gauges" || kind === "stack" || kind === "tested"
            ? "table"
            : kind;
      const ofCurve = kind === "curve" || kind === "table";
      const test = kind === "table" || (kind === "curve" && overlay.data) ? bench.test : null;
      const shown = shownOf(bench, kind === "view", ofCurve ? (pairing?.id ?? null) : null, test);
      const words = await shownWords(shown);
      const common = {
        kind: of,
        title: title.trim() || usual[kind],
        note,
        address: `/?${toAddress(bench)}`,
        shown,
        state: "" as const,
      };
      if (kind === "view") {
        if (!values.data) throw new Error("The view is not drawn yet.");
        await keep.mutateAsync({
          ...common,
          sentence: values.data.head.sentence,
          caveats: [...view.notes, ...values.data.head.caveats],
          verdict: "",
          picture: pictureOfView({ view, bench, head: values.data.head }, words),
          table: null,
        });
      } else if (plies?.answer) {
        await keep.mutateAsync({
          ...common,
          sentence: plies.answer.sentence,
          caveats: plies.answer.caveats ?? [],
          verdict: plies.answer.verdict ?? "",
          state: plies.answer.state,
          picture: plies.figure ? await plotPicture({ ...plies.figure, caption: words }, "png") : null,
          table: await (await tableOf(kind, plies.words!, "csv")).text(),
        });
      } else if (answered) {
        const asked = kind === "profile" ? firstOf(profiles).words : gaugeWords!;
        await keep.mutateAsync({
          ...common,
          sentence: answered.sentence,
          caveats: answered.caveats ?? [],
          verdict: answered.verdict ?? "",
          state: answered.state,
          picture: kind === "profile" ? await plotPicture({ ...profileFigure(profiles), caption: words }, "png") : null,
          table: await (await tableOf(kind, asked, "csv")).text(),
        });
      } else if (pairing) {
        const sentence = `${pairing.y.sentence}; against ${pairing.x.sentence}`;
        const verdict = match.data?.verdict ?? "";
        const caveats = [...pairing.caveats, ...(match.data?.corrections ?? [])];
        const here = { x: pairing.x.values[bench.step] ?? null, y: pairing.y.values[bench.step] ?? null };
        const picture =
          kind === "curve"
            ? await plotPicture({ ...loopPlot(pairing, overlay.data), here, caption: words }, "png")
            : null;
        const source =
          kind === "curve"
            ? `/api/pairings/${pairing.id}/curve.csv`
            : `/api/matches.csv?pairing=${pairing.id}&test=${bench.test}`;
        const table = await (await fetch(source)).text();
        await keep.mutateAsync({
          ...common,
          sentence,
          caveats,
          verdict,
          state: match.data?.state ?? "",
          picture,
          table,
        });
      }
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
              ...(bench.bay === "strength"
                ? ([
                    { value: "stack", label: "the stack", disabled: !ofPlies.stack.answer },
                    { value: "envelope", label: "the envelope", disabled: !ofPlies.envelope.answer },
                    { value: "tested", label: "the tests", disabled: !ofPlies.tested.answer },
                  ] as const)
                : bench.bay === "path"
                  ? ([
                      { value: "profile", label: "the profile", disabled: !profiles.length },
                      { value: "gauges", label: "the gauges", disabled: !gauges },
                    ] as const)
                  : ([
                      { value: "curve", label: "the curve", disabled: !pairing },
                      { value: "table", label: "the agreement", disabled: !match.data },
                    ] as const)),
            ]}
            value={kind}
            onChoose={setKind}
          />
          <Form.Control
            className="mt-2"
            size="sm"
            aria-label="Title"
            placeholder={usual[kind]}
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
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <div className="quiet small-line mt-2">{sentenceOf}</div>
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
