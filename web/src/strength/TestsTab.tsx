import { useQuestion } from "../api/asking";
import { api, ask } from "../api/client";
import { useFormats } from "../api/formats";
import { useKeeping, useKept, useStating } from "../api/kept";
import { sent } from "../api/sending";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { BringFile } from "../controls/BringFile";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { TextField } from "../controls/TextField";
import { useTyped } from "../controls/typed";
import { useLaminates, usePartTests, useTested, useTestedWords } from "../lines/strength";
import { figure, parse } from "../reading/format";

/** Tested parts against the prediction, and coupons with what they say of the material. */
export function TestsTab() {
  return (
    <div data-testid="strength-tests">
      <PartTests />
      <CouponTests />
    </div>
  );
}

function PartTests() {
  const { tables } = useFormats();
  const { result, criterion, set } = useBench("result", "criterion", "set");
  const { kept, tests } = usePartTests();
  const { change, remove } = useKeeping("part-tests");
  const [load, setLoad] = useTyped("load at a factor of 1", "1");
  const asked = useTested();
  const words = useTestedWords();
  return (
    <>
      <h3>Tested parts</h3>
      <Refused error={kept.error} />
      {!tests && (
        <div className="quiet small-line">
          A CSV or XLSX with specimen, load (at first failure), and perhaps zone, mode, note.
        </div>
      )}
      {!tests && (
        <TextField label="Load at a factor of 1" name="Load at a load factor of 1" value={load} onSet={setLoad} />
      )}
      <div className="row-line actions">
        <BringFile
          label="Bring tested parts"
          testid="part-tests-file"
          accept={tables.join(",")}
          send={(file) =>
            sent(file, (how) =>
              ask(
                api.POST("/api/results/{result}/part-tests", {
                  params: {
                    path: { result: result! },
                    query: { name: file.name, per_factor: tests?.words.per_factor ?? parse(load) ?? 1 },
                  },
                  ...how,
                }),
              ),
            )
          }
        />
        {words && <AnswerLeaves what="Tests" kind="tested" words={words} name="tested parts" />}
      </div>
      {tests && (
        <>
          <div className="row-line">
            <span className="name">{tests.words.name}</span>
            <button type="button" className="link" onClick={() => remove.mutate(tests.id)}>
              Remove
            </button>
          </div>
          <TextField
            label={`Load at a factor of 1${tests.words.unit ? `, ${tests.words.unit}` : ""}`}
            name="Load at a load factor of 1"
            value={String(tests.words.per_factor)}
            onSet={(text) => {
              const per_factor = parse(text);
              if (per_factor !== null && per_factor > 0) change.mutate({ id: tests.id, words: { per_factor } });
            }}
          />
          {asked.error && <Refused error={asked.error} />}
          {asked.data && <Verdict answer={asked.data} />}
          {asked.data && (
            <button type="button" className="link" onClick={() => set({ strata: true, tab: "tested" })}>
              Criteria side by side
            </button>
          )}
          {criterion.endsWith("+bond") && <div className="quiet small-line">Each criterion with the bond lines.</div>}
        </>
      )}
    </>
  );
}

function Verdict({ answer }: { answer: NonNullable<ReturnType<typeof useTested>["data"]> }) {
  const more = answer.more;
  return (
    <>
      <div className={`verdict verdict-${answer.state}`} data-testid="tested-verdict">
        {answer.verdict}
      </div>
      {answer.figures!.map((f) => (
        <div className="row-line ruled" key={f.label} title={f.how}>
          <span>{f.label}</span>
          <b className="fig">
            {figure(f.value, 4)} {f.unit}
          </b>
        </div>
      ))}
      <table className="figures" data-testid="tested-parts">
        <thead>
          <tr>
            <th>part</th>
            <th>tested {answer.unit}</th>
            <th>pred. / tested</th>
            <th>seen</th>
          </tr>
        </thead>
        <tbody>
          {more.parts.map((p) => (
            <tr key={p.specimen} title={p.note}>
              <td>{p.specimen}</td>
              <td>{figure(p.load, 4)}</td>
              <td>{figure(p.ratio, 3)}</td>
              <td className="word">
                {[p.zone, p.mode].filter(Boolean).join(", ") || "not stated"}
                {p.same === false && <b> (other)</b>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {answer.caveats!.map((c) => (
        <div className="caveat caveat-in" key={c}>
          {c}
        </div>
      ))}
    </>
  );
}

const numbers = [
  { value: "mean", label: "the means" },
  { value: "b", label: "the 90 % / 95 % bounds" },
  { value: "a", label: "the 99 % / 95 % bounds" },
];

function CouponTests() {
  const { tables } = useFormats();
  const { result } = useBench("result");
  const laminates = useLaminates().data;
  const materials = Object.keys(laminates?.more.content?.materials ?? {});
  const kept = useKept("coupons", result);
  const { remove } = useKeeping("coupons");
  const [chosen, setChosen] = useTyped("coupons", "");
  const [number, setNumber] = useTyped("number of the coupons", "mean");
  const coupons = kept.data?.find((c) => String(c.id) === chosen) ?? kept.data?.[kept.data.length - 1];
  const basis = useQuestion("coupon-basis", coupons ? { result, named: coupons.id } : null);
  const material = coupons?.words.material || materials[0] || "";
  const take = useStating(() =>
    ask(
      api.PUT("/api/results/{result}/laminates/basis", {
        params: { path: { result: result! } },
        body: { coupons: coupons!.id, material, number: number as "mean" },
      }),
    ),
  );
  const column = (name: string) => (basis.data?.columns ?? []).find((c) => c.name.startsWith(name))?.values ?? [];
  return (
    <>
      <h3 className="mt-3">Coupons</h3>
      <Refused error={kept.error} />
      <div className="row-line actions">
        <BringFile
          label="Bring coupons"
          testid="coupon-file"
          accept={tables.join(",")}
          send={(file) =>
            sent(file, (how) =>
              ask(
                api.POST("/api/coupons", {
                  params: { query: { name: file.name, material: materials.length === 1 ? materials[0] : "" } },
                  ...how,
                }),
              ),
            )
          }
        />
        {coupons && (
          <AnswerLeaves
            what="Basis"
            kind="coupon-basis"
            words={{ result, named: coupons.id }}
            name={coupons.words.name}
          />
        )}
      </div>
      {!coupons && (
        <div className="quiet small-line">
          A CSV or XLSX with specimen, property (Xt, Yc, S12, …), value; or s11, s22, s12.
        </div>
      )}
      {coupons && (
        <>
          {kept.data!.length > 1 && (
            <SelectField
              label="Coupons"
              name="Coupons"
              value={String(coupons.id)}
              options={kept.data!.map((c) => ({ value: String(c.id), label: c.words.name }))}
              onSet={setChosen}
            />
          )}
          <div className="row-line">
            <span className="name">
              {coupons.words.name}
              {coupons.words.material && ` of ${coupons.words.material}`}
            </span>
            <button type="button" className="link" onClick={() => remove.mutate(coupons.id)}>
              Remove
            </button>
          </div>
          <Refused error={basis.error} />
          {basis.data && (
            <table className="figures" data-testid="coupon-basis">
              <thead>
                <tr>
                  <th>
                    <span className="visually-hidden">which</span>
                  </th>
                  <th>tests</th>
                  <th>mean</th>
                  <th title="90 % of the population lies above, with 95 % confidence">90/95</th>
                  <th title="99 % of the population lies above, with 95 % confidence">99/95</th>
                  <th title="Shapiro and Wilk's test of a normal population">p</th>
                </tr>
              </thead>
              <tbody>
                {column("property").map((which, i) => (
                  <tr key={which}>
                    <td>{which}</td>
                    <td>{column("tests")[i]}</td>
                    {["mean", "90", "99", "p of"].map((n) => (
                      <td key={n}>{figure(column(n)[i] as number | null, 3)}</td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {(basis.data?.caveats ?? []).slice(1).map((c) => (
            <div className="caveat caveat-in" key={c}>
              {c}
            </div>
          ))}
          {materials.length > 0 && (
            <>
              <SelectField
                label="State of the material"
                name="Which numbers"
                value={number}
                options={numbers}
                onSet={setNumber}
              />
              <button type="button" className="ghost" disabled={take.isPending} onClick={() => take.mutate(undefined)}>
                Take as strengths of {material}
              </button>
            </>
          )}
        </>
      )}
    </>
  );
}
