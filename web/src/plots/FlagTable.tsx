import { useState } from "react";
import { api, ask } from "../api/client";
import { useFlagAnswer, useFlags } from "../api/marks";
import { useChange, useContents } from "../api/queries";
import { readingQuery } from "../bench/readingChoice";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { Missing } from "../controls/Missing";
import { figure, percent } from "../reading/format";
import { partsOf } from "../view/flagCard";

/** Every flag of the result, with what each element that meets there says. */
export function FlagTable() {
  const { result, reading, step, set } = useBench("result", "reading", "step", "set");
  const flags = useFlags(result);
  const many = (useContents(result).data?.steps.length ?? 0) > 1;
  if (!flags.data?.length)
    return (
      <div className="strata-empty quiet">
        <Missing asked={flags} reading="Reading the flags …" empty="No flag yet: click the model to plant one." />
      </div>
    );
  return (
    <div className="flag-table" data-testid="flag-table">
      <table className="figures">
        <thead>
          <tr>
            <th>flag</th>
            <th>name</th>
            <th>at</th>
            <th>part</th>
            <th>value in every element that meets there</th>
            <th>jump</th>
            <th>of the range</th>
          </tr>
        </thead>
        <tbody>
          {flags.data.map((f, i) => (
            <FlagRow key={f.id} id={f.id} number={i + 1} name={f.name} />
          ))}
        </tbody>
      </table>
      {reading && (
        <AnswerLeaves what="Flags" kind="flags" words={{ result, ...readingQuery(reading, step) }} name="flags" />
      )}
      {many && (
        <button
          type="button"
          className="link"
          onClick={() => set({ tab: "flag-steps", flagSteps: { only: null, take: "all" } })}
        >
          All flags over the steps
        </button>
      )}
    </div>
  );
}

function FlagRow({ id, number, name }: { id: number; number: number; name: string }) {
  const answer = useFlagAnswer(id);
  const d = answer.data;
  const rename = useChange((to: string) =>
    ask(api.PUT("/api/flags/{flag}", { params: { path: { flag: id } }, body: { name: to } })),
  );
  const [text, setText] = useState<string | null>(null);
  const finish = () => {
    if (text !== null && text.trim() !== name) rename.mutate(text.trim());
    setText(null);
  };
  return (
    <tr>
      <td>{number}</td>
      <td>
        <input
          className="flag-name"
          aria-label={`Name of flag ${number}`}
          placeholder="name it"
          maxLength={80}
          value={text ?? name}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
      </td>
      <td>{d?.place}</td>
      <td className="word">{partsOf(d?.entries ?? [])}</td>
      <td className="wrap">
        {d?.entries.map((e, i) => (
          <span key={`${e.element}-${i}`}>
            {e.element !== null && <span className="quiet">el. {e.element} </span>}
            {e.name ?? figure(e.value)}
            {i < d.entries.length - 1 ? " · " : ` ${d.unit}`}
          </span>
        )) ?? answer.error?.message}
      </td>
      <td>{d && d.jump !== null ? `${figure(d.jump, 3)} ${d.unit}` : ""}</td>
      <td>{d && d.jump_of_range !== null ? percent(d.jump_of_range, 2) : ""}</td>
    </tr>
  );
}
