import { useState } from "react";
import { useContents, useValues } from "../api/queries";
import { type FrontChoice, freshFront, useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { FiguresTable } from "../controls/AnswerTable";
import { PointField } from "../controls/PointField";
import { Refused } from "../controls/Refused";
import { Section } from "../controls/Section";
import { SelectField } from "../controls/SelectField";
import { isFollowed, useFront, useFrontWords } from "../lines/front";
import { parse } from "../reading/format";

const kinds = [
  { value: "", label: "at a value" },
  { value: "region", label: "border of a region" },
  { value: "edge", label: "edge of the surface" },
];
const said = {
  "": "Where the reading in view has a value.",
  region: "Between the elements whose mean of the reading in view is at least the value and the others.",
  edge: "The sides no other element shares that face the way.",
};

/** A front, followed through the steps: how far it came, how straight it is. */
export function Front() {
  const { result, front, set } = useBench("result", "front", "set");
  const contents = useContents(result);
  const head = useValues().data?.head;
  const asked = useFront();
  const words = useFrontWords();
  const [value, setValue] = useState<string | null>(null);
  const [along, setAlong] = useState<string | null>(null);
  const [chosen, setChosen] = useState<FrontChoice["border"] | null>(null);
  if (!contents.data || contents.data.steps.filter((s) => !s.made_of).length < 2) return null;
  const border = chosen ?? front.border;
  const number = border === "edge" ? null : parse(value ?? String(front.value ?? ""));
  const ready = border === "edge" || number !== null;
  const follow = (e: React.FormEvent) => {
    e.preventDefault();
    if (!ready) return;
    set({
      front: { value: number, along: (along ?? front.along).trim(), border },
      strata: true,
      tab: "front",
      beside: "",
    });
  };
  return (
    <Section name="front" className="section" open={isFollowed(front)} summary="A front through the steps">
      <form onSubmit={follow} data-testid="front-form">
        <SelectField
          label="It is"
          name="What the front is"
          value={border}
          options={kinds}
          onSet={(kind) => setChosen(kind as FrontChoice["border"])}
        />
        <div className="small-line quiet">{said[border]}</div>
        <label className="row-line" hidden={border === "edge"}>
          Value on it
          <span className="with-unit">
            <input
              className="form-control form-control-sm fig"
              inputMode="decimal"
              aria-label="Value on the front"
              value={value ?? (front.value === null ? "" : String(front.value))}
              onChange={(e) => setValue(e.target.value)}
            />
            {head?.unit}
          </span>
        </label>
        <PointField
          label="Along"
          name="Direction of the front's way"
          placeholder="the way of its middle"
          direction
          optional
          value={along ?? front.along}
          onSet={setAlong}
        />
        <div className="row-line actions">
          <button type="submit" className="btn btn-primary btn-sm" disabled={!ready}>
            Follow
          </button>
          {isFollowed(front) && (
            <button type="button" className="ghost" onClick={() => set({ front: freshFront })}>
              Leave it
            </button>
          )}
        </div>
      </form>
      {words && asked.error && <Refused error={asked.error} />}
      {words && !asked.error && !asked.data && <div className="quiet">The front is looked for at each step …</div>}
      {words && !asked.error && asked.data && (
        <div className={asked.isPlaceholderData ? "former" : ""}>
          <div className="verdict" data-testid="front-verdict">
            {asked.data.verdict}
          </div>
          <FiguresTable figures={asked.data.figures} testid="front-figures" />
          {asked.data.caveats.map((c) => (
            <div className="caveat caveat-in" key={c}>
              {c}
            </div>
          ))}
          <AnswerLeaves what="Front" kind="front" words={words} name={`${contents.data.name} front`} />
        </div>
      )}
    </Section>
  );
}
