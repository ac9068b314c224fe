import { Copy, Pencil } from "lucide-react";
import { Form } from "react-bootstrap";
import { type Kept, type KeptWords, useKeeping, useKept } from "../api/kept";
import { useContents, useTests } from "../api/queries";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Choices } from "../controls/Choices";
import { OfOthers } from "../controls/OfOthers";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { SelectField } from "../controls/SelectField";
import { Stroke } from "../controls/Stroke";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { brief, freshDraft, lineKinds, read } from "../lines/kinds";
import { type DrawnProfile, lineColours, type ProfileAnswer, shownPaths, useProfiles } from "../lines/profiles";
import { figure } from "../reading/format";
import { DraftForm } from "./DraftForm";
import { ProfileOfOthers } from "./ProfileOfOthers";

type Path = Kept<KeptWords["path"]>;

/** Lines that are kept, the one being made, and what their profiles say. */
export function PathsTab() {
  const { result, paths, draft, set } = useBench("result", "paths", "draft", "set");
  const contents = useContents(result);
  const kept = useKept("path", result);
  const profiles = useProfiles(true);
  if (!contents.data || (kept.isPending && !kept.error)) return <div className="quiet">Reading the paths …</div>;
  const list = kept.data ?? [];
  const shown = shownPaths(paths, list).map((p) => p.id);
  const start = (kind: string) =>
    set({
      draft: { ...freshDraft(kind), name: freeName(list) },
      picks: [],
      picking: "path",
      strata: true,
      tab: "profile",
    });
  return (
    <div data-testid="paths">
      <Refused error={kept.error} />
      {list.map((p, i) => (
        <PathRow key={p.id} path={p} colour={lineColours[i % lineColours.length]!} shown={shown} />
      ))}
      {draft ? (
        <DraftForm list={list} />
      ) : (
        <>
          <h3 className="sub">{list.length ? "A new line" : "A line to read values along"}</h3>
          <div className="kind-grid">
            {lineKinds.map((k) => (
              <button type="button" className="ghost" key={k.kind} title={k.title} onClick={() => start(k.kind)}>
                {k.label}
              </button>
            ))}
          </div>
        </>
      )}
      {!draft && (
        <OfOthers
          kind="path"
          what="Lines"
          onMade={(id) => set({ paths: [...(paths ?? shown), id], strata: true, tab: "profile" })}
        />
      )}
      {profiles.length > 0 && <Reading profiles={profiles} />}
    </div>
  );
}

const freeName = (list: Path[]) => {
  let n = list.length + 1;
  while (list.some((p) => p.words.name === `Line ${n}`)) n++;
  return `Line ${n}`;
};

function PathRow({ path, colour, shown }: { path: Path; colour: string; shown: number[] }) {
  const { draft, set } = useBench("draft", "set");
  const { keep, remove } = useKeeping("path");
  const { id, words } = path;
  const on = shown.includes(id);
  const edit = () => {
    const { kind, values } = read(words.path);
    set({
      draft: {
        id,
        name: words.name,
        kind,
        values,
        side: words.side ?? "",
        reverse: words.reverse ?? false,
        before: words.before ?? 0,
        after: words.after ?? 0,
      },
      picks: [],
      picking: "path",
    });
  };
  return (
    <div className="part-row" data-testid="kept-path">
      <Form.Check
        id={`path-${id}`}
        checked={on}
        aria-label={`Profile of ${words.name}`}
        onChange={() => set({ paths: on ? shown.filter((s) => s !== id) : [...shown, id] })}
      />
      <Stroke colour={colour} />
      <button
        type="button"
        className="link name"
        title={`${brief(words.path)}${words.side ? `, in ${words.side}` : ""}`}
        onClick={() => set({ paths: [id], strata: true, tab: "profile" })}
      >
        {words.name}
      </button>
      <button type="button" className="icon" aria-label={`Change ${words.name}`} title="Change" onClick={edit}>
        <Pencil size={13} />
      </button>
      <button
        type="button"
        className="icon"
        aria-label={`Copy ${words.name}`}
        title="Copy"
        onClick={() => keep.mutate({ ...words, name: `${words.name.slice(0, 70)} copy` })}
      >
        <Copy size={13} />
      </button>
      <RemoveButton
        what={`path ${words.name}`}
        onRemove={() => {
          if (draft?.id === id) set({ draft: null });
          remove.mutate(id);
        }}
      />
    </div>
  );
}

/** What is drawn over what, and what the first profile says. */
function Reading({ profiles }: { profiles: DrawnProfile[] }) {
  const { result, reading, profile, held, draft, picking, set } = useBench(
    "result",
    "reading",
    "profile",
    "held",
    "draft",
    "picking",
    "set",
  );
  const contents = useContents(result);
  const tests = useTests();
  const first = profiles.find((p) => !p.held) ?? profiles[0]!;
  const change = (to: Partial<typeof profile>) => set({ profile: { ...profile, ...to } });
  const answer = first.answer;
  const from = profile.distance !== "true" && profile.distance !== "relative";
  const tensor = contents.data?.fields.find((f) => f.name === reading?.field)?.rank === "tensor";
  return (
    <>
      <h3 className="sub">Distance</h3>
      <Choices
        name="Distance"
        options={[
          { value: "true", label: "true" },
          { value: "relative", label: "relative", title: "From 0 to 1" },
          { value: "from", label: "from a point", title: "From the place of the line that is nearest to a point" },
        ]}
        value={from ? "from" : profile.distance}
        onChoose={(to) => change({ distance: to === "from" ? "0,0,0" : to })}
      />
      {from && (
        <PointField
          label="Point"
          name="Distance from the point"
          value={profile.distance}
          onSet={(distance) => change({ distance })}
        />
      )}
      {contents.data?.moves && (
        <Switch
          id="profile-deformed"
          label="On the deformed shape, true scale"
          on={profile.shape === "deformed"}
          onSet={(on) => change({ shape: on ? "deformed" : "undeformed" })}
        />
      )}
      {tensor && (
        <Switch
          id="profile-linearise"
          label="Membrane and bending parts"
          on={profile.linearise}
          onSet={(linearise) => change({ linearise })}
        />
      )}
      <TextField
        label="Formula"
        name="Formula beside it, of x and y"
        value={profile.formula}
        onSet={(formula) => change({ formula })}
      />
      {(tests.data?.length ?? 0) > 0 && (
        <SelectField
          label="Record"
          name="Record beside it"
          value={String(profile.test ?? "")}
          options={[{ value: "", label: "none" }, ...tests.data!.map((t) => ({ value: String(t.id), label: t.name }))]}
          onSet={(v) => change({ test: v ? Number(v) : null })}
        />
      )}
      <h3 className="sub">{first.label}</h3>
      <Refused error={first.error} />
      {answer && <Said answer={answer} />}
      <div className="row-line actions">
        {answer && (
          <button
            type="button"
            className="ghost"
            title="It stays in the plot while reading, step or line go on"
            onClick={() => set({ held: [...held, { label: heldLabel(first, answer), words: first.words }] })}
          >
            Hold this curve
          </button>
        )}
        {held.length > 0 && (
          <button type="button" className="ghost" onClick={() => set({ held: [] })}>
            Let go of {held.length}
          </button>
        )}
        {answer && <AnswerLeaves what="Profile" kind="profile" words={first.words} name={`${first.label} profile`} />}
      </div>
      {answer && <ProfileOfOthers />}
      {draft === null && picking === "path" && <div className="quiet small-line">Escape ends picking.</div>}
    </>
  );
}

const heldLabel = (p: DrawnProfile, answer: ProfileAnswer) =>
  `${p.label}, ${answer.columns![1]!.name}, ${/(at [^,]*?\(step \d+ of \d+\))/.exec(answer.sentence)?.[1] ?? ""}`.replace(
    /, $/,
    "",
  );

function Said({ answer }: { answer: ProfileAnswer }) {
  const more = answer.more;
  const unit = answer.unit ?? "";
  const across = answer.columns![0]!.unit ?? "";
  const plain = more.lead?.startsWith("von Mises");
  const row = (word: string, value: number | null, at?: number) => (
    <tr key={word}>
      <td>{word}</td>
      <td>
        {figure(value)} {unit}
      </td>
      <td className="quiet">{at === undefined ? "" : `at ${figure(at)} ${across}`}</td>
    </tr>
  );
  return (
    <>
      <table className="figures" data-testid="profile-figures">
        <tbody>
          {more.peaks && row("Highest", more.peaks.max.value, more.peaks.max.x)}
          {more.peaks && row("Lowest", more.peaks.min.value, more.peaks.min.x)}
          {row("Mean", more.mean)}
          {answer
            .figures!.filter((f) => !f.how.includes("linearised"))
            .map((f) => (
              <tr key={`${f.label} ${f.how}`} title={f.how}>
                <td>{f.label}</td>
                <td>
                  {figure(f.value)} {f.unit}
                </td>
                <td className="quiet">{f.label.includes("deviation") ? f.how : ""}</td>
              </tr>
            ))}
        </tbody>
      </table>
      {more.parts && (
        <table className="figures" data-testid="linearised">
          <caption className="quiet small-line">
            Through {figure(more.thickness)} {more.length_unit}, in {unit}
            {more.tensor_unit !== unit && !plain ? `; von Mises in ${more.tensor_unit}` : ""}
          </caption>
          <thead>
            <tr>
              <td />
              <th>{more.lead!.split(" of ")[0]!.replace(" component", "")}</th>
              {!plain && <th>von Mises</th>}
            </tr>
          </thead>
          <tbody>
            {more.parts.map((p) => (
              <tr key={p.label}>
                <td className="word">{p.label}</td>
                <td>{figure(p.value)}</td>
                {!plain && <td>{figure(p.von_mises)}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {answer.verdict && (
        <div className={`verdict verdict-${answer.state}`} data-testid="profile-verdict">
          {answer.verdict}
        </div>
      )}
      {answer.caveats!.map((c) => (
        <div className="caveat caveat-in" key={c}>
          {c}
        </div>
      ))}
      <div className="quiet small-line">
        Length {figure(more.length)} {more.length_unit}. {answer.sentence}.
      </div>
    </>
  );
}
