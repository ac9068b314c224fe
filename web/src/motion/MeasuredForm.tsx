import { api, ask, type TestRecord, type TestUse } from "../api/client";
import { useChange, useContents } from "../api/queries";
import { useTestUse } from "../api/records";
import { useBench } from "../bench/store";
import { Choices, type Option } from "../controls/Choices";
import { NumberField } from "../controls/NumberField";
import { PlaceField } from "../controls/PlaceField";
import { SelectField } from "../controls/SelectField";
import { TextField } from "../controls/TextField";

const forms: Option<NonNullable<TestUse["form"]>>[] = [
  { value: "magnitude-phase", label: "amplitude, phase" },
  { value: "real-imaginary", label: "real, imaginary" },
  { value: "magnitude", label: "amplitude alone" },
];
const signs: Option<1 | -1>[] = [
  { value: 1, label: "as recorded" },
  { value: -1, label: "reversed" },
];

type Side = "x" | "y" | "second";
const sides: Record<string, Record<Side, string>> = {
  "magnitude-phase": { x: "Frequency", y: "Amplitude", second: "Phase" },
  "real-imaginary": { x: "Frequency", y: "Real part", second: "Imaginary part" },
  magnitude: { x: "Frequency", y: "Amplitude", second: "" },
};

/** How a measured response is understood: which column is what, its unit, sign and scale, and where it was measured. */
export function MeasuredForm({ record }: { record: TestRecord }) {
  const change = useTestUse(record.id);
  const contents = useContents(useBench((s) => s.result));
  const { use } = record;
  const form = use.form || "magnitude";
  const remove = useChange(() => ask(api.DELETE("/api/tests/{test}", { params: { path: { test: record.id } } })));
  const setSide = (side: Side, part: Partial<TestUse["x"]>) =>
    change.mutate((u) => ({ ...u, [side]: { ...(u[side] ?? u.y), ...part } }));
  /** Another form takes another column beside the first: the one after it, until it is said. */
  const setForm = (next: NonNullable<TestUse["form"]>) =>
    change.mutate((u) => {
      const at = record.columns.findIndex((c) => c.name === u.y.column);
      const after = record.columns[at + 1] ?? record.columns[at]!;
      const second = u.second ?? { column: after.name, unit: after.unit, sign: 1, scale: 1, zero: 0, smooth: 1 };
      return { ...u, form: next, second: next === "magnitude" ? null : second };
    });
  return (
    <>
      <Choices name="What the columns are" className="mb-2" options={forms} value={form} onChoose={setForm} />
      {(["x", "y", "second"] as const).map((side) => {
        const own = use[side];
        const word = sides[form]![side];
        if (!own || !word) return null;
        return (
          <fieldset className="use" key={side}>
            <legend>{word}</legend>
            <SelectField
              label="Column"
              name={`${word}, column`}
              value={own.column}
              options={record.columns.map((c) => ({ value: c.name, label: c.name }))}
              onSet={(column) =>
                setSide(side, { column, unit: record.columns.find((c) => c.name === column)?.unit ?? null })
              }
            />
            <div className="limits">
              <TextField
                label="Unit"
                name={`${word}, unit`}
                value={own.unit ?? ""}
                onSet={(unit) => setSide(side, { unit: unit || null })}
              />
              {side === "y" && (
                <NumberField
                  label="Times"
                  name={`${word}, scale`}
                  value={own.scale ?? 1}
                  onSet={(scale) => setSide(side, { scale })}
                />
              )}
              {side !== "x" && (
                <div className="row-line">
                  <span>Sign</span>
                  <Choices
                    name={`${word}, sign`}
                    options={signs}
                    value={own.sign ?? 1}
                    onChoose={(sign) => setSide(side, { sign })}
                  />
                </div>
              )}
            </div>
          </fieldset>
        );
      })}
      {contents.data && (
        <PlaceField
          label="Measured at"
          name="Where it was measured"
          contents={contents.data}
          value={use.at ?? ""}
          onSet={(at) => change.mutate((u) => ({ ...u, at }))}
        />
      )}
      <button type="button" className="link" onClick={() => remove.mutate(undefined)}>
        Remove {record.name} from the review
      </button>
    </>
  );
}
