import { ArrowDown, ArrowUp, Plus, X } from "lucide-react";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask } from "../api/client";
import { useFormats } from "../api/formats";
import { useStating } from "../api/kept";
import { useContents } from "../api/queries";
import { sent } from "../api/sending";
import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { BringFile } from "../controls/BringFile";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { useTyped } from "../controls/typed";
import { type Laminates, type PlyWords, useLaminates, useStack, type Zone } from "../lines/strength";
import { figure, parse } from "../reading/format";

/** Brings in a laminate file of the result in view. */
export function BringLaminates({ primary }: { primary?: boolean }) {
  const { tables } = useFormats();
  const result = useBench((s) => s.result);
  return (
    <BringFile
      label="Bring laminates"
      testid="laminate-file"
      takes="laminates"
      accept={[".json", ...tables].join(",")}
      primary={primary}
      send={(file) =>
        sent(file, (how) =>
          ask(
            api.POST("/api/results/{result}/laminates", {
              params: { path: { result: result! }, query: { name: file.name } },
              ...how,
            }),
          ),
        )
      }
    />
  );
}

/** The laminates: zone by zone a stack that can be changed, what it is like, and where plies end. */
export function StackTab() {
  const asked = useLaminates();
  const { result, set } = useBench("result", "set");
  const contents = useContents(result);
  // Opened at the zone of the element whose stack is in view, until another one is chosen here.
  const element = useStack().data?.more;
  const [picked, setPicked] = useTyped<{ zone: string; at: number | null }>("zone of the stacks", {
    zone: "",
    at: null,
  });
  const at = element?.element ?? null;
  const chosen = picked.zone && picked.at === at ? picked.zone : (element?.zone ?? picked.zone);
  const setChosen = (zone: string) => setPicked({ zone, at });
  const state = useStating((content: Laminates["content"] | null) =>
    ask(
      api.PUT("/api/results/{result}/laminates", {
        params: { path: { result: result! } },
        body: { name: asked.data?.more.name ?? "laminates", content: content as never },
      }),
    ),
  );
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return <div className="quiet">Reading the laminates …</div>;
  const known: Laminates = asked.data.more;
  if (!known.name)
    return (
      <>
        <div className="quiet small-line">No laminates are stated of this result.</div>
        <BringLaminates primary />
      </>
    );
  const zone = known.zones.find((z) => z.name === chosen) ?? known.zones[0]!;
  const show = (field: string) => set({ reading: freshReading(field, "value") });
  const has = (field: string) => contents.data?.fields.some((f) => f.name === field);
  return (
    <div data-testid="stacks">
      <div className="row-line">
        <span className="name">
          {known.name}
          {known.edited ? ", edited here" : ""}
        </span>
        <button type="button" className="link" onClick={() => state.mutate(null)}>
          Take back
        </button>
      </div>
      <div className="row-line actions">
        <BringLaminates />
        <AnswerLeaves what="Plies" kind="laminates" words={{ result }} name="laminates" />
      </div>
      <div className="row-line actions">
        {["laminate thickness", "ply count", "laminate zone"].filter(has).map((f) => (
          <button type="button" className="link" key={f} onClick={() => show(f)}>
            Show {f.replace("laminate ", "")}
          </button>
        ))}
      </div>
      <SelectField
        label="Zone"
        name="Zone"
        value={zone.name}
        options={known.zones.map((z) => ({ value: z.name, label: `${z.name}, ${z.elements} elements` }))}
        onSet={setChosen}
      />
      <div className="small-line" data-testid="zone-words">
        {zone.plies.length} plies, {figure(zone.thickness, 4)} {known.length},{" "}
        {zone.symmetric ? "symmetric" : "not symmetric"}, {zone.balanced ? "balanced" : "not balanced"}.
      </div>
      <Plies
        key={`${zone.name} ${JSON.stringify(zone.plies)}`}
        zone={zone}
        known={known}
        busy={state.isPending}
        onApply={(plies) =>
          state.mutate({
            ...known.content!,
            zones: known.content!.zones.map((z) => (z.name === zone.name ? { ...z, plies } : z)),
          })
        }
      />
      {known.drop_offs.length > 0 && (
        <>
          <h3 className="sub">Where plies end</h3>
          {known.drop_offs.map((d) => (
            <div className="small-line" key={`${d.from} ${d.to}`}>
              {d.from} to {d.to}: {d.ends.length > 0 && `${d.ends.join(", ")} end${d.ends.length === 1 ? "s" : ""}`}
              {d.ends.length > 0 && d.begins.length > 0 && "; "}
              {d.begins.length > 0 && `${d.begins.join(", ")} begin${d.begins.length === 1 ? "s" : ""}`}
            </div>
          ))}
        </>
      )}
      <Materials known={known} />
    </div>
  );
}

/** The plies of a zone, the top first, each to be changed, moved and taken out. */
function Plies({
  zone,
  known,
  busy,
  onApply,
}: {
  zone: Zone;
  known: Laminates;
  busy: boolean;
  onApply: (plies: PlyWords[]) => void;
}) {
  const [plies, setPlies] = useTyped(`plies of ${zone.name} ${JSON.stringify(zone.plies)}`, zone.plies);
  const changed = JSON.stringify(plies) !== JSON.stringify(zone.plies);
  const write = (i: number, change: Partial<PlyWords>) =>
    setPlies(plies.map((p, k) => (k === i ? { ...p, ...change } : p)));
  const move = (i: number, by: number) => {
    const next = [...plies];
    const [one] = next.splice(i, 1);
    next.splice(i + by, 0, one!);
    setPlies(next);
  };
  const materials = Object.keys(known.content!.materials);
  return (
    <>
      <table className="figures stack-table" data-testid="ply-editor">
        <thead>
          <tr>
            <th>sheet</th>
            <th>angle °</th>
            <th>thick {known.length}</th>
            {materials.length > 1 && <th>material</th>}
            <th>
              <span className="visually-hidden">what can be done</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {plies
            .map((p, i) => ({ p, i }))
            .reverse()
            .map(({ p, i }) => (
              <tr key={`${i} of ${plies.length}`}>
                <td>
                  <Cell label={`Sheet of ply ${i + 1}`} value={p.sheet} onSet={(sheet) => write(i, { sheet })} />
                </td>
                <td>
                  <Cell
                    label={`Angle of ply ${i + 1}`}
                    value={String(p.angle)}
                    onSet={(text) => {
                      const angle = parse(text);
                      if (angle !== null) write(i, { angle });
                    }}
                  />
                </td>
                <td>
                  <Cell
                    label={`Thickness of ply ${i + 1}`}
                    value={String(Number(p.thickness.toPrecision(6)))}
                    onSet={(text) => {
                      const thickness = parse(text);
                      if (thickness !== null && thickness > 0) write(i, { thickness });
                    }}
                  />
                </td>
                {materials.length > 1 && (
                  <td>
                    <Form.Select
                      size="sm"
                      aria-label={`Material of ply ${i + 1}`}
                      value={p.material}
                      onChange={(e) => write(i, { material: e.target.value })}
                    >
                      {materials.map((m) => (
                        <option key={m}>{m}</option>
                      ))}
                    </Form.Select>
                  </td>
                )}
                <td className="ply-acts">
                  <button
                    type="button"
                    className="icon-link"
                    aria-label={`Ply ${i + 1} up`}
                    disabled={i === plies.length - 1}
                    onClick={() => move(i, 1)}
                  >
                    <ArrowUp size={12} />
                  </button>
                  <button
                    type="button"
                    className="icon-link"
                    aria-label={`Ply ${i + 1} down`}
                    disabled={i === 0}
                    onClick={() => move(i, -1)}
                  >
                    <ArrowDown size={12} />
                  </button>
                  <button
                    type="button"
                    className="icon-link"
                    aria-label={`Remove ply ${i + 1}`}
                    disabled={plies.length === 1}
                    onClick={() => setPlies(plies.filter((_, k) => k !== i))}
                  >
                    <X size={12} />
                  </button>
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      <div className="row-line actions">
        <button
          type="button"
          className="link"
          onClick={() => setPlies([...plies, { ...plies[plies.length - 1]!, sheet: "" }])}
        >
          <Plus size={12} /> Ply on top
        </button>
        <button type="button" className="ghost" disabled={!changed || busy} onClick={() => onApply(plies)}>
          State this stack
        </button>
        {changed && (
          <button type="button" className="link" onClick={() => setPlies(zone.plies)}>
            As it was
          </button>
        )}
      </div>
    </>
  );
}

function Cell({ label, value, onSet }: { label: string; value: string; onSet: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      className="cell"
      aria-label={label}
      value={text ?? value}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text !== null) onSet(text.trim());
        setText(null);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
}

const shown = ["E1", "E2", "G12", "nu12", "Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23"];

/** Constants and strengths of the plies' materials, with what is said of them. */
function Materials({ known }: { known: Laminates }) {
  return (
    <>
      <h3 className="sub">Materials</h3>
      {Object.entries(known.content!.materials).map(([name, m]) => (
        <div key={name} data-testid="ply-material">
          <b>{name}</b>
          <div className="small-line fig">
            {shown
              .filter((n) => typeof m[n] === "number")
              .map((n) => `${n} ${figure(m[n] as number, 4)}`)
              .join(", ")}
          </div>
          {["basis", "source", "direction"]
            .filter((n) => m[n])
            .map((n) => (
              <div className="quiet small-line" key={n}>
                {n}: {m[n]}
              </div>
            ))}
        </div>
      ))}
      <div className="quiet small-line">Moduli and strengths in {known.stress}.</div>
    </>
  );
}
