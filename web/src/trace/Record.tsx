import { FileUp, Trash2 } from "lucide-react";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, Problem, type TestRecord, type TestUse } from "../api/client";
import { useFormats } from "../api/formats";
import { useChange, useTests } from "../api/queries";
import { belongs, useTestUse } from "../api/records";
import { sent } from "../api/sending";
import { taken, useDropped } from "../bench/dropped";
import { here } from "../bench/here";
import { useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { Section } from "../controls/Section";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { figure, percent } from "../reading/format";
import { signs } from "./PairingForm";
import { PrintedCurve } from "./PrintedCurve";

/** The records held against the curve in view: brought in, averaged, corrected. */
export function Record({ record, open }: { record: TestRecord | undefined; open: boolean }) {
  const { set, pairing } = useBench("set", "pairing");
  const tests = useTests();
  const { tables } = useFormats();
  const input = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [printing, setPrinting] = useState(false);
  const bring = useChange(async (file: File) => {
    return sent(file, (how) =>
      ask(api.POST("/api/tests", { params: { query: { name: file.name, pairing } }, ...how })),
    );
  });
  const fitting = (tests.data ?? []).filter((t) => belongs(t, pairing));
  const alike = fitting.filter((t) => t.of.length === 0);
  const mean = useChange(() =>
    ask(
      api.POST("/api/tests/mean", {
        body: { name: `mean of ${alike.length} specimens`, tests: alike.map((t) => t.id), pairing },
      }),
    ),
  );
  const take = (file: File | undefined) => {
    if (!file) return;
    setProblem(null);
    bring.mutate(file, {
      onSuccess: (made) => set({ test: made.id, strata: true, tab: "loop" }),
      onError: (error) => setProblem(error instanceof Problem ? error : new Problem(error.message, "")),
    });
  };
  const { files: dropped, as } = useDropped();
  const takeIn = useRef(take);
  takeIn.current = take;
  useEffect(() => {
    if (as !== "record") return;
    taken();
    takeIn.current(dropped[0]);
  }, [dropped, as]);
  const paste = async () => {
    try {
      take(new File([await navigator.clipboard.readText()], "pasted table.csv"));
    } catch {
      setProblem(new Problem("The clipboard is closed to this page.", "Save the table as CSV and drop it here."));
    }
  };
  const remove = useChange((id: number) => ask(api.DELETE("/api/tests/{test}", { params: { path: { test: id } } })));
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    take(e.dataTransfer.files[0]);
  };
  return (
    <Section name="record" className="section" open={open} summary="Test record: columns, units, sign, zero">
      {fitting.length > 1 && (
        <Form.Select
          size="sm"
          aria-label="Record"
          value={record?.id ?? ""}
          onChange={(e) => set({ test: Number(e.target.value) })}
        >
          {fitting.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}
            </option>
          ))}
        </Form.Select>
      )}
      {record?.error && (
        <div className="verdict verdict-bad" role="alert" data-testid="broken-record">
          <b>{record.name} has no curve.</b> {record.error}
        </div>
      )}
      {record && record.of.length === 0 && <RecordForm key={record.id} record={record} />}
      {record && record.of.length > 0 && !record.error && (
        <div className="small-line" data-testid="scatter">
          {record.corrections[0]}; they scatter by up to <b className="fig">{percent(record.scatter, 2)}</b> of the
          largest force (standard deviation).
        </div>
      )}
      {alike.length > 1 && !fitting.some((t) => t.of.length > 0) && (
        <button
          type="button"
          className="ghost"
          onClick={() =>
            mean.mutate(undefined, { onSuccess: (made) => set({ test: made.id, strata: true, tab: "loop" }) })
          }
        >
          Mean of the {alike.length} records
        </button>
      )}
      <div className="drop drop-small" onDragOver={(e) => e.preventDefault()} onDrop={onDrop}>
        <FileUp size={16} />
        <div>
          Drop a CSV or XLSX record,{" "}
          <button type="button" className="link" onClick={() => input.current?.click()}>
            pick a file
          </button>
          , or{" "}
          <button type="button" className="link" onClick={() => void paste()}>
            paste a table
          </button>
          , or{" "}
          <button type="button" className="link" onClick={() => setPrinting(true)}>
            read a printed curve off its picture
          </button>
        </div>
        <input
          ref={input}
          type="file"
          accept={tables.join(",")}
          hidden
          data-testid="test-file"
          onChange={(e) => {
            take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {printing && <PrintedCurve onClose={() => setPrinting(false)} />}
      {record?.picture && (
        <a className="link" href={here(`/api/tests/${record.id}/picture`)} target="_blank" rel="noreferrer">
          Its picture
        </a>
      )}
      {problem && (
        <div className="verdict verdict-bad" role="alert" data-testid="test-problem">
          <b>{problem.title}</b> {problem.hint}
          <div className="quiet">The review is as it was.</div>
        </div>
      )}
      {record && (
        <button
          type="button"
          className="link"
          onClick={() => remove.mutate(record.id, { onSuccess: () => set({ test: null }) })}
        >
          <Trash2 size={12} /> Remove {record.name}
        </button>
      )}
    </Section>
  );
}

function RecordForm({ record }: { record: TestRecord }) {
  const change = useTestUse(record.id);
  const setSide = (side: "x" | "y", part: Partial<TestUse["x"]>) =>
    change.mutate((use) => ({ ...use, [side]: { ...use[side], ...part } }));
  const { use } = record;
  const strained = record.x_unit === "" || record.x_unit === "%";
  const rename = useChange((name: string) =>
    ask(
      api.PUT("/api/kept/{kind}/{item}", {
        params: { path: { kind: "test", item: record.id } },
        body: { name } as unknown as Record<string, never>,
      }),
    ),
  );
  return (
    <>
      <TextField
        label="Name"
        name="Name of the record"
        className="wide-field"
        value={record.name}
        onSet={(name) => name && rename.mutate(name)}
      />
      <fieldset className="use">
        <legend>Rows</legend>
        <div className="limits">
          <NumberField
            label="From"
            name="First row"
            value={use.first ?? 1}
            min={1}
            max={record.rows}
            whole
            onSet={(first) => change.mutate((u) => ({ ...u, first }))}
          />
          <NumberField
            label="to"
            name="Last row"
            value={use.last ?? record.rows}
            min={1}
            onSet={(last) => change.mutate((u) => ({ ...u, last: last >= record.rows ? null : last }))}
          />
        </div>
        {strained && (
          <Switch
            id="true-curve"
            label="Turn engineering into true stress and strain"
            on={use.true ?? false}
            onSet={(on) => change.mutate((u) => ({ ...u, true: on }))}
          />
        )}
      </fieldset>
      {(["x", "y"] as const).map((side) => {
        const use = record.use[side];
        const column = record.columns.find((c) => c.name === use.column);
        const word = side === "x" ? "Driver" : "Force";
        return (
          <fieldset className="use" key={side}>
            <legend>{word}</legend>
            <div className="row-line">
              <label htmlFor={`${side}-column`}>Column</label>
              <Form.Select
                id={`${side}-column`}
                size="sm"
                aria-label={`${word} column`}
                value={use.column}
                onChange={(e) =>
                  setSide(side, {
                    column: e.target.value,
                    unit: record.columns.find((c) => c.name === e.target.value)?.unit ?? null,
                  })
                }
              >
                {record.columns.map((c) => (
                  <option key={c.name} value={c.name}>
                    {c.name}
                  </option>
                ))}
              </Form.Select>
            </div>
            <div className="quiet small-line">
              as recorded <span className="fig">{figure(column?.low)}</span> to{" "}
              <span className="fig">{figure(column?.high)}</span> {column?.unit ?? "unit not stated"}, beginning{" "}
              <span className="fig">
                {column?.first
                  .slice(0, 3)
                  .map((v) => figure(v))
                  .join(", ")}
              </span>
            </div>
            <div className="limits">
              <TextField
                label="Unit"
                value={use.unit ?? ""}
                name={`${word} unit`}
                onSet={(unit) => setSide(side, { unit: unit || null })}
              />
              <NumberField
                label="Zero at"
                name={`${word} zero`}
                value={use.zero!}
                onSet={(zero) => setSide(side, { zero })}
              />
              <div className="row-line">
                <span>Sign</span>
                <Choices
                  name={`${word} sign`}
                  options={signs}
                  value={use.sign ?? 1}
                  onChoose={(sign) => setSide(side, { sign })}
                />
              </div>
              <NumberField
                label="Scale"
                name={`${word} scale`}
                value={use.scale!}
                onSet={(scale) => setSide(side, { scale })}
              />
              <NumberField
                label="Smooth"
                name={`${word} smoothing`}
                value={use.smooth!}
                whole
                onSet={(smooth) => setSide(side, { smooth })}
                min={1}
              />
            </div>
          </fieldset>
        );
      })}
    </>
  );
}
