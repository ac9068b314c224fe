import { useQueryClient } from "@tanstack/react-query";
import { FileUp } from "lucide-react";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { Form, ProgressBar } from "react-bootstrap";
import { query } from "../api/binary";
import { api, ask, type Job, Problem, toProblem } from "../api/client";
import { useFormats } from "../api/formats";
import { useChange, useContents } from "../api/queries";
import { taken, useDropped } from "../bench/dropped";
import { here } from "../bench/here";
import { say, tell } from "../bench/notices";
import { Stopped } from "../bench/problem";
import { readingQuery } from "../bench/readingChoice";
import { useBench, usePane } from "../bench/store";
import { Section } from "../controls/Section";
import { figure } from "../reading/format";
import { Constants } from "./Constants";
import { Doubts } from "./Doubts";
import { receive } from "./Dropping";
import { EntryWord, FieldEntry, useEntries } from "./FieldEntry";
import { RemovedList, Results } from "./Kept";
import { Roles } from "./Roles";
import { Steps } from "./Steps";

type State =
  | { phase: "idle" }
  | { phase: "sending"; share: number; text: string }
  | { phase: "asking"; upload: string; answer: (roles: Record<string, string> | null) => void }
  | { phase: "reading"; job: Job };

/** Takes result files in and says what is in them; every guess is marked and the unit system can be stated. */
export function IntakeDrawer() {
  const { result, reading, step } = useBench("result", "reading", "step");
  const pane = usePane();
  const contents = useContents(result);
  const formats = useFormats();
  const client = useQueryClient();
  const [state, setState] = useState<State>({ phase: "idle" });
  const [problem, setProblem] = useState<Problem | null>(null);
  const [over, setOver] = useState(false);
  const [system, setSystem] = useState("");
  const [asked, setAsked] = useState(0);
  const entries = useEntries(result ?? 0);
  const input = useRef<HTMLInputElement>(null);
  const stopped = useRef(false);
  const stated = () => void client.invalidateQueries();
  const units = useChange((s: string) =>
    ask(api.PUT("/api/results/{result}/units", { params: { path: { result: result! } }, body: { system: s } })),
  );

  const take = async (files: File[]) => {
    if (!files.length) return;
    setProblem(null);
    stopped.current = false;
    const before = pane.getState().result;
    try {
      const upload = await ask(api.POST("/api/uploads"));
      for (const [i, file] of files.entries()) {
        if (stopped.current) throw new Problem("Stopped by you.", "Nothing was taken in.");
        setState({ phase: "sending", share: i / files.length, text: file.name });
        const answer = await fetch(here(`/api/uploads/${upload.id}/${encodeURIComponent(file.name)}`), {
          method: "PUT",
          body: file,
        });
        if (!answer.ok) throw toProblem(await answer.json().catch(() => undefined));
      }
      // Files that are no single series: what each is to the others is found, and can be said otherwise.
      const params = { path: { upload: upload.id } };
      const groups = files.length > 1 ? await ask(api.GET("/api/uploads/{upload}/groups", { params })) : [];
      const roles =
        groups.length < 2
          ? {}
          : await new Promise<Record<string, string> | null>((answer) =>
              setState({ phase: "asking", upload: upload.id, answer }),
            );
      if (roles === null) return;
      const order = { upload: upload.id, name: null, system: system || null, look: true, roles };
      let job = await ask(api.POST("/api/intake", { body: order }));
      let shown = false;
      while (job.state === "running") {
        setState({ phase: "reading", job });
        if (job.preview !== null && job.preview !== undefined && !shown) {
          // It is looked at while it is being stored.
          shown = true;
          await client.invalidateQueries({ queryKey: ["review"] });
          pane.getState().open(job.preview);
        }
        await new Promise((r) => window.setTimeout(r, 150));
        if (stopped.current) {
          // What is on its way is left first: nothing more is asked of what will not be there.
          if (shown && before !== null) pane.getState().open(before);
          await ask(api.DELETE("/api/jobs/{job}", { params: { path: { job: job.id } } }));
        }
        job = await ask(api.GET("/api/jobs/{job}", { params: { path: { job: job.id } } }));
      }
      await client.invalidateQueries();
      if (job.state === "stopped") throw new Stopped("Nothing was taken in.");
      if (job.state !== "done") throw new Problem(job.error ?? "It failed.", job.hint ?? "");
      if (!shown) pane.getState().open(job.result!);
      say("Taken in.");
    } catch (error) {
      if (error instanceof Problem && !(error instanceof Stopped)) setProblem(error);
      else tell(error);
    } finally {
      setState({ phase: "idle" });
    }
  };
  const { files: dropped, as } = useDropped();
  const takeIn = useRef(take);
  takeIn.current = take;
  useEffect(() => {
    if (as !== "result") return;
    taken();
    void takeIn.current(dropped);
  }, [dropped, as]);
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    receive([...e.dataTransfer.files], formats, pane);
  };
  const c = contents.data;
  return (
    <div data-testid="intake">
      <h3>Take results in</h3>
      {state.phase === "idle" ? (
        <>
          <div
            className={`drop ${over ? "drop-over" : ""}`}
            onDragOver={(e) => {
              e.preventDefault();
              setOver(true);
            }}
            onDragLeave={() => setOver(false)}
            onDrop={onDrop}
          >
            <FileUp size={18} />
            <div>
              Drop a result file or a numbered series here ({formats.titles.join(", ")}), or{" "}
              <button type="button" className="link" onClick={() => input.current?.click()}>
                pick files
              </button>
            </div>
            <input
              ref={input}
              type="file"
              multiple
              accept={[...formats.results, ...formats.beside].join(",")}
              hidden
              data-testid="intake-files"
              onChange={(e) => {
                const files = [...(e.target.files ?? [])];
                e.target.value = "";
                void take(files);
              }}
            />
          </div>
          <div className="row-line">
            <label htmlFor="intake-system">Units of the files</label>
            <Form.Select id="intake-system" size="sm" value={system} onChange={(e) => setSystem(e.target.value)}>
              <option value="">not stated: guess</option>
              {(c?.systems ?? ["mm-N-s-t-MPa", "m-N-s-kg-Pa", "mm-kN-ms-kg-GPa", "in-lbf-s-psi"]).map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Form.Select>
          </div>
        </>
      ) : state.phase === "asking" ? (
        <Roles upload={state.upload} onAnswer={state.answer} />
      ) : (
        <div className="drop" role="status">
          <div className="drop-work">
            <div>{state.phase === "sending" ? `Sending ${state.text}` : state.job.text}</div>
            <ProgressBar
              now={100 * (state.phase === "sending" ? 0.3 * state.share : 0.3 + 0.7 * state.job.share)}
              aria-label="Progress"
            />
            <button
              type="button"
              className="link"
              onClick={() => {
                stopped.current = true;
              }}
            >
              Stop
            </button>
          </div>
        </div>
      )}
      {problem && (
        <div className="verdict verdict-bad" role="alert" data-testid="intake-problem">
          <b>{problem.title}</b> {problem.hint}
          <div className="quiet">The review is as it was.</div>
        </div>
      )}
      <Results />
      <RemovedList />
      {c && (
        <>
          <h3 className="sub">What is in {c.name}</h3>
          <div className="quiet small-line">
            <span className="fig">{c.nodes}</span> nodes ({c.welding}
            {c.raw_points !== c.nodes && (
              <>
                {" "}
                from <span className="fig">{c.raw_points}</span> points
              </>
            )}
            ), <span className="fig">{c.elements}</span> elements (
            {Object.entries(c.cells)
              .map(([n, k]) => `${k} ${n}`)
              .join(", ")}
            ).
          </div>
          <Doubts contents={c} onStated={stated} onForm={() => setAsked((n) => n + 1)} />
          {c.warnings.map((w) => (
            <div className="caveat caveat-in" key={w}>
              {w}
            </div>
          ))}
          <Steps key={c.id} contents={c} onStated={stated} asked={asked} />
          <div className="row-line">
            <label htmlFor="system">Unit system{c.system_guessed && <span className="guess">guessed</span>}</label>
            <Form.Select
              id="system"
              size="sm"
              value={c.system}
              onChange={(e) => units.mutate(e.target.value, { onSuccess: stated })}
            >
              {c.systems.map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Form.Select>
          </div>
          <h3 className="sub">Fields</h3>
          <ul className="plain" data-testid="fields">
            {c.fields.map((f) => (
              <li key={f.name} title={f.notes.join("; ")}>
                <div>
                  <b title={f.title === f.name ? undefined : `in the file: ${f.name}`}>{f.title}</b>
                  <span className="fig">{f.names ? "" : f.unit || "1"}</span>
                </div>
                <FieldEntry result={c.id} field={f} onStated={stated} />
              </li>
            ))}
          </ul>
          {c.whole_numbers.length > 0 && (
            <>
              <h3 className="sub">Whole numbers</h3>
              <ul className="plain" data-testid="whole-numbers">
                {c.whole_numbers.map((n) => (
                  <li key={n.name}>
                    <div>{n.name}</div>
                    <small>
                      <EntryWord
                        entry={n.entry}
                        of={n.name}
                        onChoose={(role) =>
                          entries.mutate({ fields: [n.name], entries: { role } }, { onSuccess: stated })
                        }
                      />
                      , {n.location === "element" ? "of elements" : "of nodes"}
                    </small>
                  </li>
                ))}
              </ul>
            </>
          )}
          <h3 className="sub">Parts and sets</h3>
          <ul className="plain">
            {c.parts.map((p) => (
              <li key={`part ${p.name}`}>
                <div>
                  {p.name}
                  <span className="fig">{p.elements} elements</span>
                </div>
              </li>
            ))}
            {c.sets.map((s) => (
              <li key={`set ${s.name}`}>
                <div>
                  set {s.name}
                  {s.held && s.held !== "unknown" && (
                    <span className={`state state-${s.held}`}>
                      {s.held === "held"
                        ? s.moves
                          ? "held and moved"
                          : "held"
                        : s.held === "partly"
                          ? "partly held"
                          : "free"}
                    </span>
                  )}
                  <span className="fig">
                    {s.count} {s.of}
                  </span>
                  {reading && s.of === "nodes" && (
                    <small className="downloads">
                      {(["csv", "xlsx"] as const).map((form) => (
                        <a
                          key={form}
                          className="link"
                          download
                          title="The reading in view at every node of the set"
                          href={here(
                            `/api/results/${c.id}/set.${form}?${query({ ...readingQuery(reading, step), name: s.name })}`,
                          )}
                        >
                          {form.toUpperCase()}
                        </a>
                      ))}
                    </small>
                  )}
                </div>
              </li>
            ))}
          </ul>
          <Constants contents={c} onStated={stated} />
          <h3 className="sub">Written as a file</h3>
          <div className="row-line actions" data-testid="export">
            <a className="link" download href={here(`/api/results/${c.id}/export/vtu?step=${step}`)}>
              VTU, this step
            </a>
            <a className="link" download href={here(`/api/results/${c.id}/export/vtkhdf`)}>
              VTKHDF, all steps
            </a>
            <a className="link" download href={here(`/api/results/${c.id}/export/uff`)}>
              UFF, all steps
            </a>
          </div>
          <Section
            name="files"
            summary={
              <>
                Files <span className="fig">{c.files.length}</span>
              </>
            }
          >
            <ul className="plain files">
              {c.files.map((f) => (
                <li
                  key={f.name}
                  title={f.sha256 ? `SHA-256 ${f.sha256}` : `XXH3 ${f.xxh3 ?? "unknown"}; SHA-256 to come`}
                >
                  <div>
                    {f.name}
                    <span className="fig">{figure(f.bytes / 1024, 3)} kB</span>
                  </div>
                </li>
              ))}
            </ul>
          </Section>
        </>
      )}
    </div>
  );
}
