import { useState } from "react";
import { api, ask, type Contents } from "../api/client";
import { useFormats } from "../api/formats";
import { useStating } from "../api/kept";
import { useContents } from "../api/queries";
import { sent } from "../api/sending";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { BringFile } from "../controls/BringFile";
import { Choices } from "../controls/Choices";
import { Refused } from "../controls/Refused";
import { RemoveButton } from "../controls/RemoveButton";
import { Section } from "../controls/Section";
import { useTyped } from "../controls/typed";
import { useGoverning, useGoverningWords } from "../lines/compare";
import { figure } from "../reading/format";

/** Steps made of others: sums of load cases by factors, and which of them governs. */
export function CasesTab() {
  const result = useBench((s) => s.result);
  const contents = useContents(result);
  if (!contents.data) return <div className="quiet">Reading the steps …</div>;
  return (
    <>
      <Made contents={contents.data} />
      <Governs contents={contents.data} />
      <Making contents={contents.data} key={contents.data.id} />
    </>
  );
}

const made = (c: Contents) => c.steps.filter((s) => s.made_of);
const own = (c: Contents) => c.steps.filter((s) => !s.made_of);

function Made({ contents: c }: { contents: Contents }) {
  const { step, set } = useBench("step", "set");
  const remove = useStating((name: string) =>
    ask(api.DELETE("/api/results/{result}/combinations", { params: { path: { result: c.id }, query: { name } } })),
  );
  return (
    <>
      <h3>Combinations of {c.name}</h3>
      {!made(c).length && (
        <div className="quiet">
          None yet. A combination is a step made of others by factors; it is read, balanced and traced like any step.
        </div>
      )}
      <div data-testid="combinations">
        {made(c).map((s) => (
          <div key={s.name}>
            <div className="part-row">
              <button
                type="button"
                className={s.index === step ? "link name on" : "link name"}
                title={`Look at combination ${s.name}`}
                aria-pressed={s.index === step}
                onClick={() => set({ step: s.index, playing: false })}
              >
                {s.name}
              </button>
              <RemoveButton what={`combination ${s.name}`} onRemove={() => remove.mutate(s.name!)} />
            </div>
            <div className="small-line quiet">
              {s.notes![0]!.replace(/^A sum of steps, components before the measure: /, "").replace(/\.$/, "")}
            </div>
            {s.notes!.slice(1).map((n) => (
              <div className="caveat caveat-in" key={n}>
                {n}
              </div>
            ))}
          </div>
        ))}
      </div>
    </>
  );
}

/** Up to so many steps have a field each for their factor. */
const FIELDS = 8;

function Making({ contents: c }: { contents: Contents }) {
  const { tables } = useFormats();
  const set = useBench((s) => s.set);
  const [name, setName] = useTyped("name of a combination", "");
  const [factors, setFactors] = useState<Record<number, string>>({});
  const [more, setMore] = useState("");
  const state = useStating((text: string) =>
    ask(
      api.PUT("/api/results/{result}/combinations", {
        params: { path: { result: c.id } },
        body: { combinations: [text] },
      }),
    ),
  );
  const steps = own(c);
  const few = steps.length <= FIELDS;
  const terms = [
    ...(few ? steps.filter((s) => factors[s.index]?.trim()).map((s) => `${s.index}:${factors[s.index]!.trim()}`) : []),
    ...(more.trim() ? [more.trim()] : []),
  ].join(",");
  const make = (e: React.FormEvent) => {
    e.preventDefault();
    state.mutate(`${name.trim()}=${terms}`, {
      onSuccess: (now) => {
        const at = now.steps.find((s) => s.name === name.trim());
        if (at) set({ step: at.index, playing: false });
        setName("");
        setFactors({});
        setMore("");
      },
    });
  };
  return (
    <Section name={`combination of ${c.id}`} open={!made(c).length} summary="A new combination">
      <form onSubmit={make} data-testid="combination-form">
        <label className="row-line">
          Name
          <input
            className="form-control form-control-sm"
            aria-label="Name of the combination"
            value={name}
            maxLength={80}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        {few &&
          steps.map((s) => (
            <label className="row-line" key={s.index}>
              <span title={s.label}>{s.label}</span>
              <span className="with-unit">
                ×
                <input
                  className="form-control form-control-sm fig"
                  inputMode="decimal"
                  aria-label={`Factor of ${s.label}`}
                  value={factors[s.index] ?? ""}
                  onChange={(e) => setFactors({ ...factors, [s.index]: e.target.value })}
                />
              </span>
            </label>
          ))}
        <label className="row-line">
          {few ? "And others" : "Steps"}
          <input
            className="form-control form-control-sm fig"
            aria-label="Steps and factors as text"
            placeholder={few ? "0@other result:1.5" : "0:1.35, 4:1.5"}
            title="STEP:FACTOR, counted from 0; of another result on the same mesh STEP@RESULT:FACTOR"
            value={more}
            onChange={(e) => setMore(e.target.value)}
          />
        </label>
        <div className="row-line actions">
          <button type="submit" className="btn btn-primary btn-sm" disabled={!name.trim() || !terms || state.isPending}>
            Make the combination
          </button>
          <BringFile
            label="Bring a table of factors"
            testid="factors-file"
            accept={tables.join(",")}
            send={(file) =>
              sent(file, (how) =>
                ask(
                  api.POST("/api/results/{result}/combinations", {
                    params: { path: { result: c.id }, query: { name: file.name } },
                    ...how,
                  }),
                ),
              )
            }
          />
        </div>
      </form>
    </Section>
  );
}

function Governs({ contents: c }: { contents: Contents }) {
  const { governing, reading, step, set, setReading } = useBench("governing", "reading", "step", "set", "setReading");
  const words = useGoverningWords();
  const asked = useGoverning();
  if (c.steps.length < 2 || !reading) return null;
  const span = asked.data?.more.span;
  const over = (when: boolean) => {
    if (!asked.data) return;
    // The step in view is one of the cases: its shape is what is drawn.
    const cases = asked.data.more.cases.map((k) => k.step);
    set({ step: cases.includes(step) ? step : cases[0]!, playing: false });
    setReading({ over: governing.take, span: span!, when });
  };
  const shown = reading.over !== "step" && reading.span === span;
  const rows = asked.data?.more.rows ?? [];
  return (
    <>
      <h3 className="sub">Which governs</h3>
      <div className="small-line quiet">
        {made(c).length ? "Over all combinations." : "Over all steps, until there are combinations."}
      </div>
      <Choices
        name="What governs"
        options={[
          { value: "largest" as const, label: "largest" },
          { value: "smallest" as const, label: "smallest" },
          { value: "magnitude" as const, label: "magnitude" },
        ]}
        value={governing.take}
        onChoose={(take) => set({ governing: { ...governing, take } })}
      />
      <Choices
        className="mt-2 mb-2"
        name="By what"
        options={[
          { value: "part" as const, label: "by part" },
          { value: "set" as const, label: "by set" },
          { value: "element" as const, label: "by element" },
        ]}
        value={governing.by}
        onChoose={(by) => set({ governing: { ...governing, by } })}
      />
      {asked.error && <Refused error={asked.error} />}
      {!asked.error && !asked.data && <div className="quiet">The cases are gone through …</div>}
      {!asked.error && asked.data && (
        <div className={asked.isPlaceholderData ? "former" : ""}>
          <div className="verdict" data-testid="governs">
            {asked.data.verdict}
          </div>
          <table className="figures" data-testid="governing-figures">
            <tbody>
              {rows.slice(0, 6).map((r) => (
                <tr key={r.of}>
                  <td className="word">{governing.by === "element" ? `element ${r.of}` : r.of}</td>
                  <td>
                    {figure(r.value)} {asked.data.unit}
                  </td>
                  <td className="word">{r.case.replace(/^combination /, "")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="row-line actions">
            <button type="button" className="btn btn-primary btn-sm" onClick={() => over(true)}>
              Show which on the model
            </button>
            <button type="button" className="ghost" onClick={() => over(false)}>
              Show the values
            </button>
            {shown && (
              <button
                type="button"
                className="ghost"
                onClick={() => setReading({ over: "step", span: "all", when: false })}
              >
                One step again
              </button>
            )}
            <button type="button" className="ghost" onClick={() => set({ strata: true, tab: "governing", beside: "" })}>
              Table
            </button>
            {words && <AnswerLeaves what="Cases" kind="governing" words={words} name={`${c.name} governing`} />}
          </div>
        </div>
      )}
    </>
  );
}
