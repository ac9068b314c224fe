import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Schemas } from "../api/client";
import { lookQuery, useChange, useContents } from "../api/queries";
import { tell } from "../bench/notices";
import { readingQuery } from "../bench/readingChoice";
import { nothingPicked, useBench } from "../bench/store";
import { Choices } from "../controls/Choices";
import { FoldField } from "../controls/FoldField";
import { NumberField } from "../controls/NumberField";
import { PointField } from "../controls/PointField";
import { RemoveButton } from "../controls/RemoveButton";
import { RenameField } from "../controls/RenameField";
import { TextField } from "../controls/TextField";
import { useTyped } from "../controls/typed";
import { heldWord } from "./tables";

type How = "part" | "box" | "face" | "nodes" | "value";

export function Sets() {
  const { result, reading, step, picking, measuring, look, set } = useBench(
    "result",
    "reading",
    "step",
    "picking",
    "measuring",
    "look",
    "set",
  );
  const contents = useContents(result);
  const client = useQueryClient();
  const [name, setName] = useTyped("name of a new set", "");
  const [how, setHow] = useState<How>("box");
  const [part, setPart] = useTyped("part of a new set", "");
  const [low, setLow] = useTyped("low of a new set", "0,0,0");
  const [high, setHigh] = useTyped("high of a new set", "0,0,0");
  const [least, setLeast] = useTyped("least of a new set", 0);
  const make = useChange(async (body: Schemas["SetIn"]) => {
    await ask(api.POST("/api/results/{result}/sets", { params: { path: { result: result! } }, body }));
    await client.invalidateQueries();
  });
  const [renaming, setRenaming] = useState<string | null>(null);
  const rename = useChange(async ({ from, to }: { from: string; to: string }) => {
    const path = { result: result!, name: from };
    await ask(api.PUT("/api/results/{result}/sets/{name}/name", { params: { path }, body: { name: to } }));
    await client.invalidateQueries();
  });
  const remove = useChange(async (which: string) => {
    await ask(api.DELETE("/api/results/{result}/sets/{name}", { params: { path: { result: result!, name: which } } }));
    await client.invalidateQueries();
  });
  if (!contents.data) return null;
  const triple = (text: string) => text.split(",").map(Number) as [number, number, number];
  const choose = (to: How) => {
    setHow(to);
    set({ picking: to === "face" ? "area" : to === "nodes" ? "length" : "flag", measuring: nothingPicked });
  };
  const done = () => {
    if (how === "face" && measuring.face === null) {
      tell(new Error("No face is picked: click one on the model."));
      return;
    }
    make.mutate(
      {
        name: name.trim(),
        how,
        part: part || contents.data!.parts[0]!.name,
        low: triple(low),
        high: triple(high),
        face: measuring.face ?? -1,
        nodes: measuring.nodes,
        fold: measuring.fold,
        look: lookQuery(look),
        reading: reading ? (readingQuery(reading, step) as Schemas["CheckIn"]["reading"]) : null,
        least,
      },
      { onSuccess: () => setName("") },
    );
  };
  return (
    <>
      <h3>Sets</h3>
      {contents.data.sets.map((s) => (
        <div className="part-row" key={s.name} data-testid="set-row">
          {renaming === s.name ? (
            <RenameField
              what={s.name}
              onDone={(to) => {
                setRenaming(null);
                if (to) rename.mutate({ from: s.name, to });
              }}
            />
          ) : (
            <span className="name" title={s.made ?? s.found ?? "of the file"}>
              {s.name}
            </span>
          )}
          {s.found && <span className="guess">found</span>}
          <span className="fig quiet">
            {s.count} {s.of}
          </span>
          {s.held && <span className={`held held-${s.held}`}>{heldWord[s.held]}</span>}
          {s.made && renaming !== s.name && (
            <button
              type="button"
              className="link"
              aria-label={`Rename set ${s.name}`}
              onClick={() => setRenaming(s.name)}
            >
              rename
            </button>
          )}
          {s.made && <RemoveButton what={`set ${s.name}`} onRemove={() => remove.mutate(s.name)} />}
        </div>
      ))}
      {contents.data.loads_sought && (
        <div className="quiet small-line" role="status" data-testid="loads-sought">
          Where it is loaded is being looked for.
        </div>
      )}
      <h3 className="sub">Make one</h3>
      <Choices
        name="Made of"
        options={[
          { value: "box", label: "a box" },
          { value: "part", label: "a part" },
          { value: "face", label: "a face" },
          { value: "nodes", label: "nodes" },
          { value: "value", label: "a value" },
        ]}
        value={how}
        onChoose={choose}
      />
      {how === "part" && (
        <Form.Select size="sm" aria-label="Part" value={part} onChange={(e) => setPart(e.target.value)}>
          {contents.data.parts.map((p) => (
            <option key={p.name}>{p.name}</option>
          ))}
        </Form.Select>
      )}
      {how === "box" && (
        <>
          <PointField label="Lowest x, y, z" value={low} onSet={setLow} />
          <PointField label="Highest x, y, z" value={high} onSet={setHigh} />
          <div className="quiet small-line">A plane is a box without thickness.</div>
        </>
      )}
      {how === "face" && (
        <>
          <div className="quiet small-line">
            {picking === "area" && measuring.face !== null ? "A face is picked." : "Click a face on the model."}
          </div>
          <FoldField />
        </>
      )}
      {how === "nodes" && (
        <div className="row-line">
          <span className="quiet small-line">Click nodes, or</span>
          <TextField
            label="write them"
            name="Nodes of the set"
            value={measuring.nodes.join(", ")}
            onSet={(text) => set({ measuring: { ...measuring, nodes: (text.match(/\d+/g) ?? []).map(Number) } })}
          />
        </div>
      )}
      {how === "value" && <NumberField label="Reading in view at least" value={least} onSet={setLeast} />}
      <form
        className="row-line"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) done();
        }}
      >
        <input
          className="form-control form-control-sm name-field"
          placeholder="Name the set"
          aria-label="Name the set"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="ghost" disabled={!name.trim()}>
          Make
        </button>
      </form>
    </>
  );
}
