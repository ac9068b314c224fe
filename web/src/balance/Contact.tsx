import { useQuestion, type Words } from "../api/asking";
import { useContents } from "../api/queries";
import { freshReading, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { figure } from "../reading/format";
import { useView } from "../view/handle";

const INSIDE = "penetration into other parts";

/** Whose nodes lie how deep inside whose faces, and the way to the faces that are pressed. */
export function Contact() {
  const { result, step, between, set } = useBench("result", "step", "between", "set");
  const contents = useContents(result);
  const c = contents.data;
  const several = (c?.parts.length ?? 0) > 1;
  const words: Words<"penetration"> | null = c && several ? { result: result!, step, between } : null;
  const asked = useQuestion("penetration", words);
  if (!c) return null;
  if (!several)
    return (
      <div className="quiet">
        This result has one part. Contact is between two; whole numbers of its files can be taken for parts in Intake.
      </div>
    );
  const names = c.parts.map((p) => p.name);
  const pairs = names.flatMap((a, i) => names.slice(i + 1).map((b) => `${a}|${b}`));
  const sides = asked.data?.more.sides ?? [];
  return (
    <>
      <h3>Nodes of one body inside another</h3>
      {pairs.length > 1 && (
        <SelectField
          label="Between"
          name="Two bodies"
          value={between}
          options={[
            { value: "", label: "every two" },
            ...pairs.map((p) => ({ value: p, label: p.replace("|", " and ") })),
          ]}
          onSet={(v) => set({ between: v })}
        />
      )}
      {asked.error && <Refused error={asked.error} />}
      {!asked.error && !asked.data && <div className="quiet">Nodes are looked for inside the other body …</div>}
      {!asked.error && asked.data && (
        <div className={asked.isPlaceholderData ? "former" : ""}>
          <div className={`verdict verdict-${asked.data.state}`} data-testid="penetration-verdict">
            {asked.data.verdict}
          </div>
          <table className="figures" data-testid="penetration-sides">
            <thead>
              <tr>
                <th>nodes of</th>
                <th>inside</th>
                <th>count</th>
                <th>deepest {asked.data.unit}</th>
              </tr>
            </thead>
            <tbody>
              {sides.map((s) => (
                <tr key={`${s.of} ${s.into}`} title={s.node === null ? undefined : `deepest at node ${s.node}`}>
                  <td className="word">{s.of}</td>
                  <td className="word">{s.into}</td>
                  <td>{s.count}</td>
                  <td>{s.count ? figure(s.deepest) : "none"}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {asked.data.figures.slice(1).map((f) => (
            <div className="row-line small-line" key={f.label} title={f.how}>
              <span>{f.label}</span>
              <span className="fig">
                {figure(f.value, 3)} {f.unit}
              </span>
            </div>
          ))}
          <div className="small-line quiet">{asked.data.sentence}</div>
          {asked.data.caveats.map((w) => (
            <div className="caveat caveat-in" key={w}>
              {w}
            </div>
          ))}
          <div className="row-line actions">
            {c.fields.some((f) => f.name === INSIDE) && (
              <button
                type="button"
                className="btn btn-primary btn-sm"
                onClick={() => set({ reading: freshReading(INSIDE, "value"), exaggeration: 1 })}
              >
                Show on the model
              </button>
            )}
            <AnswerLeaves what="Table" kind="penetration" words={words!} name={`${c.name} penetration`} />
          </div>
        </div>
      )}
      <TheWay names={names} sides={sides} />
    </>
  );
}

interface Faced {
  of: string;
  into: string;
  looks: number[] | null;
  book: string | null;
}

/** Clears the way to the faces of one body that another presses on: the other is hidden, the camera turned to face them. */
function TheWay({ names, sides }: { names: string[]; sides: Faced[] }) {
  const { look, camera, cleared, set, setLook } = useBench("look", "camera", "cleared", "set", "setLook");
  const view = useView();
  if (!sides.length) return null;
  const show = (side: Faced, parts: string[], turned: string) => {
    set({ cleared: cleared ?? { look, camera } });
    const hidden = names.flatMap((n, i) => (parts.includes(n) ? [] : [i]));
    const from = side.looks as [number, number, number] | null;
    // What is then drawn is what the camera is fitted to.
    if (hidden.join() !== look.hidden.join() || turned !== look.turned) view.fitsNext = from;
    else if (from) view.fit?.(from);
    setLook({ hidden, translucent: [], turned });
  };
  const back = () => {
    const { look: before, camera: from } = cleared!;
    setLook({ hidden: before.hidden, translucent: before.translucent, turned: before.turned });
    set({ camera: from, cleared: null });
  };
  return (
    <>
      <h3 className="sub">The way to the faces</h3>
      <div className="row-line actions" data-testid="the-way">
        {sides.map((s) => (
          <button
            type="button"
            className="ghost"
            key={`${s.of} ${s.into}`}
            title={`Hide all but ${s.into} and look at its faces that ${s.of} presses on`}
            onClick={() => show(s, [s.into], "")}
          >
            Faces of {s.into}
          </button>
        ))}
        {sides
          .filter((s, i) => s.book && sides.findIndex((o) => o.of === s.into && o.into === s.of) > i)
          .map((s) => (
            <button
              type="button"
              className="ghost"
              key={`open ${s.of} ${s.into}`}
              title={`Turn ${s.of} over, so that the faces of both lie side by side and look at you`}
              onClick={() => show(s, [s.of, s.into], s.book!)}
            >
              {s.of} and {s.into} opened like a book
            </button>
          ))}
        {cleared && (
          <button type="button" className="btn btn-primary btn-sm" onClick={back}>
            As it was
          </button>
        )}
      </div>
    </>
  );
}
