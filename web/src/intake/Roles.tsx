import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask } from "../api/client";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";

interface Props {
  upload: string;
  /** The roles that were said otherwise than found, by the names of the groups; null where nothing is to be taken in. */
  onAnswer: (roles: Record<string, string> | null) => void;
}

/** Files that were chosen together and are no single series: what each is to the body, as found, before they are taken in. */
export function Roles({ upload, onAnswer }: Props) {
  const [body, setBody] = useState("");
  const [said, setSaid] = useState<Record<string, string>>({});
  const groups = useQuery({
    queryKey: ["groups", upload, body],
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(api.GET("/api/uploads/{upload}/groups", { params: { path: { upload }, query: { body } }, signal })),
  });
  const found = groups.data ?? [];
  return (
    <form
      className="roles"
      data-testid="roles"
      onSubmit={(e) => {
        e.preventDefault();
        onAnswer(body ? { ...said, [body]: "body" } : said);
      }}
    >
      <div>These files are not one series. What is each of them?</div>
      {groups.error && <Refused error={groups.error} />}
      {!groups.error && !groups.data && <div className="quiet">The first of each is read …</div>}
      {found.length > 0 && (
        <SelectField
          label="The body"
          name="The body"
          value={found[0]!.name}
          options={[...found]
            .sort((a, b) => a.name.localeCompare(b.name))
            .map((g) => ({ value: g.name, label: g.name }))}
          onSet={(name) => {
            setBody(name);
            setSaid({});
          }}
        />
      )}
      {found.map((g) => (
        <div key={g.name}>
          <div className="row-line">
            <b className="whole-name">{g.name}</b>
            <span className="quiet">{g.files.length === 1 ? "1 file" : `${g.files.length} files`}</span>
          </div>
          {g.choices.length > 1 ? (
            <Form.Select
              size="sm"
              aria-label={`What ${g.name} is`}
              value={said[g.name] ?? g.role}
              onChange={(e) => setSaid({ ...said, [g.name]: e.target.value })}
            >
              {g.choices.map((c) => (
                <option key={c.value} value={c.value}>
                  {c.label}
                </option>
              ))}
            </Form.Select>
          ) : (
            <div>{g.choices[0]?.label}</div>
          )}
          {!(g.name in said) && g.why && <div className="quiet small-line">{g.why}</div>}
        </div>
      ))}
      <div className="row-line actions">
        <button type="submit" className="btn btn-primary btn-sm" disabled={!groups.data || groups.isPlaceholderData}>
          Take them in
        </button>
        <button type="button" className="ghost" onClick={() => onAnswer(null)}>
          Leave them
        </button>
      </div>
    </form>
  );
}
