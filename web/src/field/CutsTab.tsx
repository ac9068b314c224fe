import { useEffect, useState } from "react";
import { Form } from "react-bootstrap";
import { useQuestion, type Words } from "../api/asking";
import { type Kept, type KeptWords, useKeeping, useKept, withoutNulls } from "../api/kept";
import { useContents, useValues } from "../api/queries";
import { told } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Choices } from "../controls/Choices";
import { OfOthers } from "../controls/OfOthers";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { useTyped } from "../controls/typed";
import { figure, parse, percent } from "../reading/format";

type CutItem = Kept<KeptWords["cut"]>;

/** Sections, iso-surfaces and value bands: listed, switched on and off, changed. */
export function CutsTab() {
  const { result, cut, set } = useBench("result", "cut", "set");
  const kept = useKept("cut", result);
  const list = kept.data ?? [];
  const chosen = list.find((c) => c.id === cut);
  return (
    <div data-testid="cuts">
      <Refused error={kept.error} />
      {list.map((c) => (
        <CutRow key={c.id} item={c} />
      ))}
      {chosen && <Chosen key={chosen.id} item={chosen} />}
      <OfOthers kind="cut" what="Cuts" onMade={(id) => set({ cut: id })} />
      <NewCut list={list} onMade={(id) => set({ cut: id })} />
    </div>
  );
}

const kindOf = (w: KeptWords["cut"]) => (w.through ? "section" : w.band ? "band" : "surface");

function CutRow({ item }: { item: CutItem }) {
  const { cut, set } = useBench("cut", "set");
  const { change, remove, now } = useKeeping("cut");
  const { id } = item;
  const words = now(item);
  return (
    <div className={`part-row ${cut === id ? "chosen-row" : ""}`} data-testid="kept-cut">
      <Form.Check
        id={`cut-${id}`}
        type="switch"
        checked={words.on ?? true}
        aria-label={`Show ${words.name}`}
        onChange={(e) => change.mutate({ id, words: { on: e.target.checked } })}
      />
      <i
        className={`swatch swatch-${words.shows === "plain" ? "plain" : "reading"}`}
        title={
          words.shows === "plain" ? "plain" : words.shows === "own" ? "a reading of its own" : "the reading in view"
        }
      />
      <button
        type="button"
        className="link name"
        title={`${kindOf(words)}: ${saidOf(words)}`}
        onClick={() => set({ cut: cut === id ? null : id })}
      >
        {words.name}
      </button>
      <RemoveButton what={`cut ${words.name}`} onRemove={() => remove.mutate(id)} />
    </div>
  );
}

export const saidOf = (w: KeptWords["cut"]) =>
  w.through
    ? `through ${w.through.split(":")[0]} square to ${w.through.split(":")[1]}`
    : w.band
      ? `from ${w.band.replace(":", " to ")}`
      : `at ${(w.iso ?? []).join(", ")}`;

function NewCut({ list, onMade }: { list: CutItem[]; onMade: (id: number) => void }) {
  const { result, reading, picking, picks, set } = useBench("result", "reading", "picking", "picks", "set");
  const contents = useContents(result);
  const values = useValues();
  const { keep } = useKeeping("cut");
  const [how, setHow] = useState<"section" | "surface" | "band">("section");
  const [iso, setIso] = useTyped("iso of a new cut", "");
  const [low, setLow] = useTyped("low of a new cut", "");
  const [high, setHigh] = useTyped("high of a new cut", "");
  const middle = contents.data?.centre?.join(",") ?? "0,0,0";
  const name = (word: string) => {
    let n = 1;
    while (list.some((c) => c.words.name === `${word} ${n}`)) n++;
    return `${word} ${n}`;
  };
  const make = (words: Partial<KeptWords["cut"]>) =>
    keep.mutate({ result: result!, ...words } as KeptWords["cut"], { onSuccess: (made) => onMade(made.id) });
  const section = (through: string) => make({ through, removes: "front", name: name("Section") });
  // Three picks make a plane.
  useEffect(() => {
    if (picking !== "plane" || picks.length < 3) return;
    set({ picks: [], picking: "flag" });
    section(picks.map((p) => p.xyz.join(",")).join(":"));
  });
  const { result: _, ...words } = { result, ...(reading ? told(reading) : {}) };
  const unit = values.data?.head.unit ?? "";
  const numbers = iso.split(/[;\s]+/).map(parse);
  return (
    <>
      <h3 className="sub">A new cut</h3>
      <Choices
        name="Kind of cut"
        options={[
          { value: "section", label: "section", title: "By a plane" },
          { value: "surface", label: "surface", title: "Where the reading in view has a value" },
          { value: "band", label: "value band", title: "The body where the reading in view lies between two values" },
        ]}
        value={how}
        onChoose={setHow}
      />
      <div className="under-choice" />
      {how === "section" && (
        <div className="row-line actions">
          {(["x", "y", "z"] as const).map((axis, i) => (
            <button
              type="button"
              className="ghost"
              key={axis}
              title={`Through the model's middle, square to ${axis}`}
              onClick={() => section(`${middle}:${[0, 1, 2].map((k) => (k === i ? 1 : 0)).join(",")}`)}
            >
              square to {axis}
            </button>
          ))}
          <button
            type="button"
            className={picking === "plane" ? "ghost on" : "ghost"}
            aria-pressed={picking === "plane"}
            onClick={() => set({ picking: picking === "plane" ? "flag" : "plane", picks: [] })}
          >
            through 3 picks
          </button>
        </div>
      )}
      {how === "surface" && (
        <form
          className="row-line"
          onSubmit={(e) => {
            e.preventDefault();
            if (numbers.every((v) => v !== null))
              make({
                iso: numbers as number[],
                reading: words as KeptWords["cut"]["reading"],
                removes: "rest",
                name: name("Surface"),
              });
          }}
        >
          <input
            className="form-control form-control-sm fig"
            aria-label="Values, with spaces between"
            placeholder="100 150"
            value={iso}
            onChange={(e) => setIso(e.target.value)}
          />
          <span className="quiet">{unit}</span>
          <button type="submit" className="ghost" disabled={!iso.trim() || numbers.some((v) => v === null)}>
            Make
          </button>
        </form>
      )}
      {how === "band" && (
        <form
          className="row-line"
          onSubmit={(e) => {
            e.preventDefault();
            make({
              band: `${parse(low)}:${parse(high)}`,
              reading: words as KeptWords["cut"]["reading"],
              removes: "rest",
              name: name("Band"),
            });
          }}
        >
          <input
            className="form-control form-control-sm fig"
            aria-label="From"
            placeholder="from"
            value={low}
            onChange={(e) => setLow(e.target.value)}
          />
          <input
            className="form-control form-control-sm fig"
            aria-label="To"
            placeholder="to"
            value={high}
            onChange={(e) => setHigh(e.target.value)}
          />
          <span className="quiet">{unit}</span>
          <button type="submit" className="ghost" disabled={parse(low) === null || parse(high) === null}>
            Make
          </button>
        </form>
      )}
      {picking === "plane" && <div className="small-line asks">Click point {picks.length + 1} of 3 of the plane.</div>}
    </>
  );
}

/** The chosen cut: what can be changed of it, and what it measures. */
function Chosen({ item }: { item: CutItem }) {
  const { result, reading, moving } = useBench("result", "reading", "moving");
  const { change, now } = useKeeping("cut");
  const { id } = item;
  const words = now(item);
  const to = (part: Partial<KeptWords["cut"]>) => change.mutate({ id, words: part });
  const through = moving ?? words.through ?? "";
  const [at, normal] = through.split(":");
  const [low, high] = (words.band ?? "").split(":");
  const removes = [
    { value: "nothing", label: "nothing" },
    ...(words.through
      ? [
          { value: "front", label: "in front", title: "What lies on the side the normal points to" },
          { value: "behind", label: "behind" },
        ]
      : []),
    { value: "rest", label: "all else", title: "All but the cut itself" },
  ] as const;
  const shape = words.through ? { through } : words.band ? { band: words.band } : { iso: words.iso?.[0] };
  return (
    <div className="chosen-cut" data-testid="chosen-cut">
      <TextField label="Name" name="Name of the cut" value={words.name} onSet={(name) => name && to({ name })} />
      {words.through && (
        <>
          <PointField label="Point" value={at!} onSet={(v) => to({ through: `${v}:${normal}` })} />
          <PointField label="Normal" direction value={normal!} onSet={(v) => to({ through: `${at}:${v}` })} />
        </>
      )}
      {words.band && (
        <>
          <TextField
            label="From"
            name="Lower value"
            value={low!}
            onSet={(v) => parse(v) !== null && to({ band: `${parse(v)}:${high}` })}
          />
          <TextField
            label="To"
            name="Upper value"
            value={high!}
            onSet={(v) => parse(v) !== null && to({ band: `${low}:${parse(v)}` })}
          />
        </>
      )}
      {(words.iso?.length ?? 0) > 0 && (
        <TextField
          label="Values"
          name="Values of the surface"
          value={words.iso!.join(" ")}
          onSet={(v) => {
            const numbers = v.split(/[;\s]+/).map(parse);
            if (numbers.every((n) => n !== null)) to({ iso: numbers as number[] });
          }}
        />
      )}
      <div className="row-line">
        <span>Takes away</span>
      </div>
      <Choices
        name="What of the model is taken away"
        options={removes.map((r) => ({ ...r }))}
        value={words.removes ?? "nothing"}
        onChoose={(r) => to({ removes: r as KeptWords["cut"]["removes"] })}
      />
      <div className="row-line">
        <span>Shows</span>
        <Choices
          name="What the cut shows"
          options={[
            { value: "reading", label: "in view", title: "The reading in view, with its key" },
            { value: "own", label: "this one", title: "The reading in view now, whatever comes into view later" },
            { value: "plain", label: "plain" },
          ]}
          value={words.shows ?? "reading"}
          onChoose={(shows) =>
            to(
              shows === "own"
                ? { shows, own: (reading ? told(reading) : {}) as KeptWords["cut"]["own"] }
                : { shows: shows as KeptWords["cut"]["shows"] },
            )
          }
        />
      </div>
      <Switch
        id={`borders-${id}`}
        label="Element borders on it"
        on={words.borders ?? true}
        onSet={(borders) => to({ borders })}
      />
      <Measures words={{ ...(words.reading ?? {}), ...shape }} />
      <div className="row-line actions">
        <AnswerLeaves
          what="Through the steps"
          kind="cut"
          words={{
            result,
            ...(reading ? told(reading) : {}),
            ...withoutNulls(words.reading ?? {}),
            ...shape,
            every: true,
          }}
          name={`${words.name} through the steps`}
        />
      </div>
    </div>
  );
}

function Measures({ words }: { words: Words<"cut"> }) {
  const { result, reading, step } = useBench("result", "reading", "step");
  const asked = useQuestion("cut", reading && { result, ...told(reading), step, ...withoutNulls(words) });
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return <div className="quiet small-line">Measuring …</div>;
  const { more } = asked.data;
  const size = asked.data.figures![0]!;
  const triple = (v: number[]) => v.map((c) => figure(c, 4)).join(", ");
  return (
    <table className="figures" data-testid="cut-figures">
      <tbody>
        <tr>
          <td>{size.label}</td>
          <td>
            {figure(size.value)} {size.unit}
          </td>
        </tr>
        {more.share !== null && (
          <tr>
            <td>share</td>
            <td>
              {percent(more.share)}
              {more.mass_share !== null && `, ${percent(more.mass_share)} by mass`}
            </td>
          </tr>
        )}
        {asked.data
          .figures!.filter((f) => f.label === "min" || f.label === "max")
          .map((f) => (
            <tr key={f.label}>
              <td>{f.label === "min" ? "lowest" : "highest"}</td>
              <td>
                {figure(f.value)} {f.unit}
              </td>
            </tr>
          ))}
        <tr>
          <td>middle, {more.length_unit}</td>
          <td>{triple(more.centroid)}</td>
        </tr>
        {more.normal && !more.force && (
          <tr title={`The plane that fits it best; it is ${figure(more.away)} ${more.length_unit} from it, RMS`}>
            <td>normal</td>
            <td>{triple(more.normal)}</td>
          </tr>
        )}
        {more.force && (
          <>
            <tr title="Of the stress on the plane; what lies on the normal's side pulls with this">
              <td>force, {more.force_unit}</td>
              <td>{triple(more.force)}</td>
            </tr>
            <tr>
              <td>moment, {more.moment_unit}</td>
              <td>{triple(more.moment!)}</td>
            </tr>
          </>
        )}
      </tbody>
    </table>
  );
}
