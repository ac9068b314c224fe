import { Form } from "react-bootstrap";
import { type Kept, type KeptWords, useKeeping, useKept } from "../api/kept";
import { useContents, useReview } from "../api/queries";
import { useBench } from "../bench/store";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { toneOf } from "../theme/strokes";

type Words = KeptWords["alongside"];

/** Other results in this picture: the surfaces, lines and bodies that go with the one in view. */
export function Alongside() {
  const result = useBench((s) => s.result);
  const kept = useKept("alongside", result);
  const review = useReview();
  const { keep } = useKeeping("alongside");
  const list = kept.data ?? [];
  const others = (review.data?.results ?? []).filter(
    (r) => r.id !== result && !list.some((a) => a.words.other === r.id),
  );
  if (!list.length && !others.length) return null;
  // The first colour that no other has.
  const tones = list.map((a) => a.words.tone ?? 0);
  const tone = [...Array(24).keys()].find((t) => !tones.includes(t)) ?? 0;
  return (
    <div data-testid="alongside">
      <h3 className="sub">Along with it</h3>
      <Refused error={kept.error ?? keep.error} />
      {list.map((a) => (
        <Row key={a.id} item={a} name={review.data?.results.find((r) => r.id === a.words.other)?.name} />
      ))}
      {others.length > 0 && (
        <Form.Select
          size="sm"
          aria-label="Show another result along with it"
          value=""
          onChange={(e) => keep.mutate({ result: result!, other: Number(e.target.value), tone } as Words)}
        >
          <option value="">Show another result too …</option>
          {others.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </Form.Select>
      )}
    </div>
  );
}

function Row({ item, name }: { item: Kept<Words>; name: string | undefined }) {
  const { change, remove, now } = useKeeping("alongside");
  const words = now(item);
  const contents = useContents(words.other);
  const { id } = item;
  const label = name ?? `result ${words.other}, removed`;
  const own = words.shows === "own" && words.own ? words.own.field : "";
  const choose = (value: string) => {
    const field = contents.data?.fields.find((f) => `own:${f.name}` === value);
    change.mutate({
      id,
      words: field
        ? { shows: "own", own: { field: field.name, measure: field.measures[0]?.name ?? "" } as Words["own"] }
        : { shows: value as Words["shows"] },
    });
  };
  return (
    <div className="alongside-row" data-testid="alongside-row">
      <div className="part-row">
        <Form.Check
          id={`alongside-${id}`}
          type="switch"
          checked={words.on ?? true}
          aria-label={`Show ${label}`}
          onChange={(e) => change.mutate({ id, words: { on: e.target.checked } })}
        />
        <i
          className={words.shows === "plain" ? "swatch" : "swatch swatch-reading"}
          style={words.shows === "plain" ? { background: toneOf(words.tone ?? 0) } : undefined}
        />
        <span className="name" title={label}>
          {label}
        </span>
        <RemoveButton what={`${label} from this picture`} onRemove={() => remove.mutate(id)} />
      </div>
      <div className="row-line">
        <Form.Select
          size="sm"
          aria-label={`What ${label} shows`}
          value={own ? `own:${own}` : (words.shows ?? "plain")}
          onChange={(e) => choose(e.target.value)}
        >
          <option value="plain">plain</option>
          <option value="reading">the reading in view</option>
          {(contents.data?.fields ?? [])
            .filter((f) => f.measures.length > 0)
            .map((f) => (
              <option key={f.name} value={`own:${f.name}`}>
                {f.title}, {f.measures[0]!.label}
              </option>
            ))}
        </Form.Select>
        <Form.Check
          id={`alongside-edges-${id}`}
          label="edges"
          checked={words.edges ?? true}
          onChange={(e) => change.mutate({ id, words: { edges: e.target.checked } })}
        />
      </div>
    </div>
  );
}
