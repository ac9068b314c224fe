import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { saveRecipe, saveReport, type Working } from "../api/asking";
import { api, ask } from "../api/client";
import { here } from "../bench/here";
import { useBench } from "../bench/store";
import { Refused } from "../controls/Refused";
import { figure } from "../reading/format";
import { useOutline, useRearrange } from "./outline";

/** The question the review answers, and what is made of it: the report, a recipe. */
export function ReportTab() {
  const outline = useOutline();
  const result = useBench((s) => s.result);
  const more = useQuery({
    queryKey: ["exhibits", "turning"],
    queryFn: ({ signal }) => ask(api.GET("/api/report/turning", { signal })),
  });
  return (
    <>
      {outline.data && <Question key={outline.data.question} kept={outline.data.question} />}
      <h3 className="sub">Report</h3>
      <p className="quiet small-line">
        Question, exhibits in their chapters, results and what was assumed of them, balance and checks, records,
        sources.
      </p>
      <div className="row-line actions">
        <Report form="html" words="HTML" title="One file: works offline, nothing in it runs" />
        <Report
          form="turns"
          words={`HTML, views turn${more.data ? `, ${figure(more.data.bytes / 1e6, 2)} MB more` : ""}`}
          title="With the skin of each view, which turns there, and plots that zoom"
        />
        <Report form="pdf" words="PDF" title="With contents, outline and page numbers" />
      </div>
      <Copies />
      <h3 className="sub">Recipe</h3>
      <p className="quiet small-line">
        Hand checks as values with limits, exhibits as tables: <code>ironstone run</code> asks them of other files.
      </p>
      {result !== null && <RecipeMade key={result} result={result} />}
    </>
  );
}

/** The report in one form: how far it is while it is made, and a way to stop it. */
function Report({ form, words, title }: { form: "html" | "turns" | "pdf"; words: string; title: string }) {
  const [working, setWorking] = useState<Working | null>(null);
  const stop = useRef<AbortController | null>(null);
  const made = useMutation({
    mutationFn: () => {
      stop.current = new AbortController();
      return saveReport(form, setWorking, stop.current.signal);
    },
    onSettled: () => setWorking(null),
  });
  if (working)
    return (
      <div className="report-working" role="status">
        <progress aria-label={`${words}: how far it is`} value={working.share} />{" "}
        <span className="small-line">{working.text}</span>{" "}
        <button type="button" className="link" onClick={() => stop.current?.abort()}>
          Stop
        </button>
      </div>
    );
  return (
    <>
      <button type="button" className="ghost" title={title} disabled={made.isPending} onClick={() => made.mutate()}>
        {words}
      </button>
      {made.error && <Refused error={made.error} />}
    </>
  );
}

/** A recipe of what is kept of the result in view; what of it is to be a parameter is chosen. */
function RecipeMade({ result }: { result: number }) {
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState<string[]>([]);
  const offers = useQuery({
    queryKey: ["exhibits", "recipe", result],
    enabled: open,
    queryFn: ({ signal }) => ask(api.GET("/api/recipe/offers", { params: { query: { result } }, signal })),
  });
  return (
    <>
      <div className="row-line actions">
        <Made words="Keep as recipe" work={() => saveRecipe(result, chosen)} />
        <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          Parameters{chosen.length > 0 && `: ${chosen.length}`}
        </button>
      </div>
      {open && offers.error && <Refused error={offers.error} />}
      {open && offers.data && (
        <fieldset className="tick-list">
          <legend className="quiet small-line">What may be another from run to run</legend>
          {offers.data.map((o) => (
            <label key={o.name} title={o.name}>
              <input
                type="checkbox"
                checked={chosen.includes(o.name)}
                onChange={(e) => setChosen(e.target.checked ? [...chosen, o.name] : chosen.filter((n) => n !== o.name))}
              />
              <span>
                {o.says}{" "}
                <span className="fig quiet">
                  {typeof o.value === "number" && !Number.isInteger(o.value) ? figure(o.value) : o.value}
                </span>
              </span>
            </label>
          ))}
          {!offers.data.length && <p className="quiet">Nothing of it varies.</p>}
        </fieldset>
      )}
    </>
  );
}

/** The review as one file, with its results or without, and how large that is. */
function Copies() {
  const sizes = useQuery({
    queryKey: ["exhibits", "copies"],
    queryFn: ({ signal }) => ask(api.GET("/api/review/copies", { signal })),
  });
  const size = (bytes: number | undefined) => (bytes === undefined ? "" : `, ${figure(bytes / 1e6, 3)} MB`);
  return (
    <>
      <h3 className="sub">Copy of the review</h3>
      <p className="quiet small-line">
        One file to send. Without results it holds exhibits, records and notes, and says what it lacks.
      </p>
      <div className="row-line actions">
        <a className="ghost text-decoration-none" href={here("/api/review/copy")} download>
          Whole{size(sizes.data?.whole)}
        </a>
        <a className="ghost text-decoration-none" href={here("/api/review/copy?lean=true")} download>
          Without results{size(sizes.data?.lean)}
        </a>
      </div>
    </>
  );
}

/** A file that is made when it is asked for. */
function Made(props: { words: string; title?: string; disabled?: boolean; work: () => Promise<void> }) {
  const made = useMutation({ mutationFn: props.work });
  return (
    <>
      <button
        type="button"
        className="ghost"
        title={props.title}
        disabled={props.disabled || made.isPending}
        onClick={() => made.mutate()}
      >
        {made.isPending ? "Making it …" : props.words}
      </button>
      {made.error && <Refused error={made.error} />}
    </>
  );
}

function Question({ kept }: { kept: string }) {
  const [text, setText] = useState(kept);
  const rearrange = useRearrange();
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        rearrange.mutate({ what: "question", text });
      }}
    >
      <h3>
        <label htmlFor="question">The question</label>
      </h3>
      <Form.Control
        id="question"
        as="textarea"
        size="sm"
        rows={4}
        maxLength={8000}
        placeholder="What this review is to answer"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <div className="row-line actions">
        <button type="submit" className="ghost" disabled={text === kept || rearrange.isPending}>
          Keep the question
        </button>
      </div>
    </form>
  );
}
