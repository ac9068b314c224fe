import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { saveFrom } from "../api/asking";
import { useKeeping, useKept } from "../api/kept";
import { useContents, useValues } from "../api/queries";
import { benchAddress, lookFrom, viewAddress } from "../bench/address";
import { save } from "../bench/clipboard";
import { tell } from "../bench/notices";
import { useBench, usePane } from "../bench/store";
import { Choices } from "../controls/Choices";
import { RemoveButton } from "../controls/RemoveButton";
import { Switch } from "../controls/Switch";
import { pictureOfViews } from "../exhibits/picture";
import { shownWords } from "../exhibits/shown";
import { useView } from "../view/handle";

type Direction = [number, number, number];

const directions: { label: string; from: Direction }[] = [
  { label: "+x", from: [1, 0, 0] },
  { label: "−x", from: [-1, 0, 0] },
  { label: "+y", from: [0, 1, 0] },
  { label: "−y", from: [0, -1, 0] },
  // Not quite along the axis the camera turns about, so that y stays up.
  { label: "+z", from: [0, -1e-4, 1] },
  { label: "−z", from: [0, -1e-4, -1] },
  { label: "corner", from: [-0.52, -1, 0.5] },
  { label: "far corner", from: [0.6, 1, 0.5] },
];

/** Where one looks from, and how it is kept. */
export function ViewTab() {
  const { result, step, look, setLook, boxing, set } = useBench("result", "step", "look", "setLook", "boxing", "set");
  const view = useView();
  const contents = useContents(result);
  const values = useValues();
  if (!contents.data) return null;
  const planar = contents.data.planar;
  return (
    <div>
      <h3>Looked at from</h3>
      <Choices
        name="Looked at from"
        options={directions.map(({ label, from }) => ({ value: from, label, disabled: planar }))}
        value={null}
        onChoose={(from) => view.fit?.(from)}
      />
      {planar && <div className="quiet small-line">A planar model stays in its plane.</div>}
      <div className="row-line actions">
        <button type="button" className="ghost" onClick={() => view.fit?.()}>
          Fit view (F)
        </button>
        <button
          type="button"
          className={`ghost ${boxing ? "on" : ""}`}
          aria-pressed={boxing}
          onClick={() => set({ boxing: !boxing })}
        >
          Zoom to a box (Z)
        </button>
      </div>
      <Switch
        id="perspective"
        label="Perspective"
        on={look.perspective}
        onSet={(perspective) => setLook({ perspective })}
      />
      <NamedViews />
      <h3 className="sub">Picture</h3>
      <div className="row-line actions">
        <button
          type="button"
          className="ghost"
          disabled={!values.data}
          onClick={async () => {
            try {
              const words = await shownWords({ of: "view", questions: [], address: `/?${benchAddress()}` });
              const { of = "", measure = "", field = "" } = values.data!.head.words;
              const what = [of, measure, field && `of ${field}`, `step ${step + 1}`].filter(Boolean).join(" ");
              save(pictureOfViews(words), `${contents.data!.name} ${what}`, "png");
            } catch (error) {
              tell(error);
            }
          }}
        >
          Picture PNG
        </button>
        {(["glb", "ply", "stl"] as const).map((form) => (
          <ModelOut key={form} form={form} disabled={!values.data} />
        ))}
      </div>
      <div className="quiet small-line">A film of the steps: the strip beside the step rail.</div>
    </div>
  );
}

const formWords = {
  glb: ["glTF", "The skin as drawn, in the colours of the key, for any viewer (GLB, metres)"],
  ply: ["PLY", "The skin as drawn, a colour a vertex"],
  stl: ["STL", "The skin as drawn, its shape alone"],
} as const;

function ModelOut({ form, disabled }: { form: keyof typeof formWords; disabled: boolean }) {
  const out = useMutation({
    mutationFn: () => saveFrom(`/api/model.${form}?address=${encodeURIComponent(`/?${benchAddress()}`)}`),
    onError: tell,
  });
  const [word, title] = formWords[form];
  return (
    <button
      type="button"
      className="ghost"
      title={title}
      disabled={disabled || out.isPending}
      onClick={() => out.mutate()}
    >
      {out.isPending ? "Making it …" : word}
    </button>
  );
}

/** Camera, parts shown and shape, kept with the review under a name. */
function NamedViews() {
  const { result, set } = useBench("result", "set");
  const pane = usePane();
  const views = useKept("view", result);
  const { keep, remove } = useKeeping("view");
  const [name, setName] = useState("");
  return (
    <>
      <h3 className="sub">Own views</h3>
      {(views.data ?? []).map((v) => (
        <div className="part-row" key={v.id} data-testid="named-view">
          <button
            type="button"
            className="link name"
            onClick={() => set(lookFrom(new URLSearchParams(v.words.address)))}
          >
            {v.words.name}
          </button>
          <RemoveButton what={`view ${v.words.name}`} onRemove={() => remove.mutate(v.id)} />
        </div>
      ))}
      <form
        className="row-line"
        onSubmit={(e) => {
          e.preventDefault();
          if (!name.trim()) return;
          const view = { result: result!, name: name.trim(), address: viewAddress(pane.getState()) };
          keep.mutate(view, { onSuccess: () => setName("") });
        }}
      >
        <input
          className="form-control form-control-sm name-field"
          placeholder="Name this view"
          aria-label="Name this view"
          maxLength={80}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="ghost" disabled={!name.trim()}>
          Keep
        </button>
      </form>
    </>
  );
}
