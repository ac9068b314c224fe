import { Trash2 } from "lucide-react";
import { useState } from "react";
import type { AnswerTo } from "../api/asking";
import { api, ask, type Contents, type TestRecord } from "../api/client";
import { useFormats } from "../api/formats";
import { useReview, useTests } from "../api/queries";
import { sent } from "../api/sending";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { BringFile } from "../controls/BringFile";
import { OptionalNumber } from "../controls/OptionalNumber";
import { PlaceField } from "../controls/PlaceField";
import { Section } from "../controls/Section";
import { SelectField } from "../controls/SelectField";
import { Stroke } from "../controls/Stroke";
import { useResponses, useResponsesWords } from "../lines/motion";
import { figure, percent } from "../reading/format";
import { MeasuredForm } from "./MeasuredForm";
import { useWays } from "./parts";
import { besideColour } from "./responseFigure";

type Curve = AnswerTo<"responses">["more"]["curves"][number];

const isTest = (text: string) => text.startsWith("test:");

/** Responses that stand beside that of the place: measured ones, those of other places and other results; how each agrees. */
export function Beside({ contents }: { contents: Contents }) {
  const { motion, set } = useBench("motion", "set");
  const tests = (useTests().data ?? []).filter((t) => t.use.form);
  const words = useResponsesWords();
  const asked = useResponses();
  const curves = asked.data?.more.curves ?? [];
  const put = (beside: string[]) => set({ motion: { ...motion, beside }, strata: true, tab: "response" });
  const taken = motion.beside.map((text) => ({ text, curve: curves.find((c) => c.beside === text) }));
  return (
    <>
      <h3 className="sub">Beside it</h3>
      {taken.map(({ text, curve }, i) => (
        <Row
          key={text}
          text={text}
          curve={curve}
          colour={besideColour(i)}
          tests={tests}
          onRemove={() => put(motion.beside.filter((b) => b !== text))}
        />
      ))}
      {words && asked.error && (
        <div className="verdict verdict-bad" role="alert">
          {asked.error.message}
        </div>
      )}
      {words && asked.data?.state && <Limits />}
      {words && asked.data?.state && (
        <div className="row-line actions">
          <AnswerLeaves
            what="Agreement"
            kind="responses"
            words={words}
            name={`${contents.name} response against ${curves.length === 1 ? curves[0]!.name : "several"}`}
          />
        </div>
      )}
      <Add
        contents={contents}
        tests={tests}
        onAdd={(text) => !motion.beside.includes(text) && put([...motion.beside, text])}
      />
    </>
  );
}

/** One that stands beside: its colour, its verdict or why there is none; of a record how it is understood. */
function Row({
  text,
  curve,
  colour,
  tests,
  onRemove,
}: {
  text: string;
  curve: Curve | undefined;
  colour: string;
  tests: TestRecord[];
  onRemove: () => void;
}) {
  const record = tests.find((t) => text === `test:${t.id}`);
  const name = curve?.name ?? record?.name ?? text;
  return (
    <div className="beside-row" data-testid="beside">
      <div className="row-line legend">
        <span className="beside-name">
          <Stroke colour={colour} dashed={!isTest(text)} /> {name}
        </span>
        {curve && curve.frac !== null && <span className="fig">FRAC {figure(curve.frac, 2)}</span>}
        <button type="button" className="icon-link" aria-label={`No longer beside: ${name}`} onClick={onRemove}>
          <Trash2 size={13} />
        </button>
      </div>
      {!curve && <div className="quiet small-line">It is read …</div>}
      {curve?.error && (
        <div className="verdict verdict-bad" role="alert">
          {curve.error}
        </div>
      )}
      {curve?.verdict && (
        <div className={`verdict verdict-${curve.state}`} data-testid="beside-verdict">
          {curve.verdict}
        </div>
      )}
      {curve && curve.pairs.length > 0 && <Pairs curve={curve} />}
      {curve?.said.map((line) => (
        <div className="quiet small-line" key={line}>
          {line}
        </div>
      ))}
      {record && (
        <Section name={`measured ${record.id}`} summary="What its columns are" className="section">
          <MeasuredForm record={record} />
        </Section>
      )}
    </div>
  );
}

/** What a peak may be off by, and the least FRAC. */
function Limits() {
  const [ways, put] = useWays();
  const share = (value: number | null) => (value === null ? null : 100 * value);
  return (
    <Section name="limits of a response" summary="Accept within" className="section">
      <OptionalNumber
        label="Frequency"
        name="Frequency of a peak, accepted within"
        usual="usual"
        unit="%"
        value={share(ways.offFrequency)}
        onSet={(v) => put({ offFrequency: v === null ? null : v / 100 })}
      />
      <OptionalNumber
        label="Amplitude"
        name="Amplitude of a peak, accepted within"
        usual="usual"
        unit="%"
        value={share(ways.offAmplitude)}
        onSet={(v) => put({ offAmplitude: v === null ? null : v / 100 })}
      />
      <OptionalNumber
        label="FRAC from"
        name="Least FRAC"
        usual="usual"
        unit=""
        value={ways.leastFrac}
        onSet={(leastFrac) => put({ leastFrac })}
      />
    </Section>
  );
}

/** Peak against peak. */
function Pairs({ curve }: { curve: Curve }) {
  return (
    <table className="figures" data-testid="peak-pairs">
      <thead>
        <tr>
          <th>peak, Hz</th>
          <th>its, Hz</th>
          <th>off by</th>
          <th>ratio</th>
          <th>verdict</th>
        </tr>
      </thead>
      <tbody>
        {curve.pairs.map((p, k) => (
          <tr key={k}>
            <td>{p.model === null ? "none" : figure(p.model, 4)}</td>
            <td>{p.test === null ? "none" : figure(p.test, 4)}</td>
            <td>{p.off === null ? "" : `${p.off > 0 ? "+" : ""}${percent(p.off, 2)}`}</td>
            <td>{p.ratio === null ? "" : figure(p.ratio, 3)}</td>
            <td className="word">{p.verdict}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Takes one more beside: a record, another result at the same place, another place; or brings in a file of a test. */
function Add({ contents, tests, onAdd }: { contents: Contents; tests: TestRecord[]; onAdd: (text: string) => void }) {
  const { result, motion, set } = useBench("result", "motion", "set");
  const results = (useReview().data?.results ?? []).filter((r) => r.id !== result);
  const { tables } = useFormats();
  const [typing, setTyping] = useState(false);
  const left = tests.filter((t) => !motion.beside.includes(`test:${t.id}`));
  const others = results.map((r) => ({ value: `of:${r.id}:${motion.at}`, label: `${r.name}, same place` }));
  return (
    <>
      <SelectField
        label="Add"
        name="What stands beside it"
        value=""
        options={[
          { value: "", label: "choose" },
          ...left.map((t) => ({ value: `test:${t.id}`, label: t.name })),
          ...others.filter((o) => !motion.beside.includes(o.value)),
          { value: "place", label: "another place …" },
        ]}
        onSet={(value) => {
          setTyping(value === "place");
          if (value === "place" || !value) return;
          // Where a record was measured, the model is read.
          const where = left.find((t) => value === `test:${t.id}`)?.use.at;
          if (where && where !== motion.at && !motion.beside.length)
            set({ motion: { ...motion, at: where, beside: [value] }, strata: true, tab: "response" });
          else onAdd(value);
        }}
      />
      {typing && (
        <PlaceField
          label="Place"
          name="Another place of the response"
          contents={contents}
          value=""
          onSet={(at) => {
            if (at) onAdd(at);
            setTyping(false);
          }}
        />
      )}
      <div className="row-line actions">
        <BringFile
          label="Bring in a measured response"
          testid="response-file"
          accept={tables.join(",")}
          send={async (file) => {
            const made = await sent(file, (how) =>
              ask(api.POST("/api/tests", { params: { query: { name: file.name } }, ...how })),
            );
            onAdd(`test:${made.id}`);
          }}
        />
        <span className="quiet small-line">CSV, XLSX or a universal file (58)</span>
      </div>
    </>
  );
}
