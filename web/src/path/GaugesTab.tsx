import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask } from "../api/client";
import { useFormats } from "../api/formats";
import { useKeeping } from "../api/kept";
import { useContents } from "../api/queries";
import { sent } from "../api/sending";
import { taken, useDropped } from "../bench/dropped";
import { here } from "../bench/here";
import { useBench } from "../bench/store";
import { AnswerLeaves } from "../controls/AnswerLeaves";
import { OfOthers } from "../controls/OfOthers";
import { Refused } from "../controls/Refused";
import { SelectField } from "../controls/SelectField";
import { Switch } from "../controls/Switch";
import { TextField } from "../controls/TextField";
import { useGaugeList, useGauges, useGaugeWords } from "../lines/gauges";
import { figure } from "../reading/format";

/** Gauge lists: brought in, typed or picked; how they are read, and how they agree. */
export function GaugesTab() {
  const { result, along, picking, picks, set } = useBench("result", "along", "picking", "picks", "set");
  const contents = useContents(result);
  const { kept, list } = useGaugeList();
  const { keep, change, remove, now } = useKeeping("gauges");
  const client = useQueryClient();
  const { tables } = useFormats();
  const file = useRef<HTMLInputElement>(null);
  const [unit, setUnit] = useState("");
  const bring = useMutation({
    mutationFn: async (chosen: File) =>
      sent(chosen, (how) =>
        ask(
          api.POST("/api/results/{result}/gauges", {
            params: { path: { result: result! }, query: { name: chosen.name, unit: unit || undefined } },
            ...how,
          }),
        ),
      ),
    onSuccess: async (made) => {
      await Promise.all(["kept", "review", "asked"].map((k) => client.invalidateQueries({ queryKey: [k] })));
      set({ gauges: made.id });
    },
  });
  const { files: dropped, as } = useDropped();
  const { mutate: take } = bring;
  useEffect(() => {
    if (as !== "gauges") return;
    taken();
    take(dropped[0]!);
  }, [dropped, as, take]);
  // A place that was picked is a gauge of the list in view, or the first of a new one.
  useEffect(() => {
    const last = picks[picks.length - 1];
    if (picking !== "gauge" || !last) return;
    set({ picks: [] });
    const [x, y, z] = last.xyz.map((v) => Number(v.toPrecision(7)));
    const point = { name: `G${(list?.words.points.length ?? 0) + 1}`, x: x!, y: y!, z: z!, rosette: "" };
    if (list) change.mutate({ id: list.id, words: { points: [...list.words.points, point] } });
    else
      keep.mutate({ result: result!, name: "Gauges 1", points: [point] } as never, {
        onSuccess: (made) => set({ gauges: made.id }),
      });
  });
  if (!contents.data || (kept.isPending && !kept.error)) return <div className="quiet">Reading the gauge lists …</div>;
  const lists = kept.data ?? [];
  return (
    <div data-testid="gauges">
      <Refused error={kept.error} />
      {lists.length > 0 && (
        <SelectField
          label="List"
          name="Gauge list"
          value={String(list?.id ?? "")}
          options={lists.map((g) => ({ value: String(g.id), label: g.words.name }))}
          onSet={(v) => set({ gauges: Number(v) })}
        />
      )}
      {lists.length === 0 && (
        <div className="quiet small-line">
          Measuring points: a CSV or XLSX with x, y, z, and perhaps name, dx, dy, dz, length, measured, rosette; or
          picked on the model.
        </div>
      )}
      <div className="row-line actions">
        <button type="button" className="ghost" onClick={() => file.current?.click()}>
          Bring a list
        </button>
        <Form.Select
          size="sm"
          className="unit-choice"
          aria-label="Unit of its coordinates"
          value={unit}
          onChange={(e) => setUnit(e.target.value)}
        >
          <option value="">as stated, else {contents.data.length_unit}</option>
          {["mm", "cm", "m", "in"].map((u) => (
            <option key={u}>{u}</option>
          ))}
        </Form.Select>
        <button
          type="button"
          className={picking === "gauge" ? "ghost on" : "ghost"}
          aria-pressed={picking === "gauge"}
          onClick={() => set({ picking: picking === "gauge" ? "flag" : "gauge", picks: [] })}
        >
          Pick on the model
        </button>
        <input
          ref={file}
          type="file"
          hidden
          accept={tables.join(",")}
          data-testid="gauge-file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) bring.mutate(chosen);
            e.target.value = "";
          }}
        />
      </div>
      <OfOthers kind="gauges" what="Gauge lists" onMade={(id) => set({ gauges: id })} />
      {picking === "gauge" && <div className="small-line asks">Each click is a gauge. Escape ends it.</div>}
      {list && (
        <>
          <TextField
            label="Name"
            name="Name of the list"
            value={list.words.name}
            onSet={(name) => name && change.mutate({ id: list.id, words: { name } })}
          />
          <TextField
            label="Measured in"
            name="Unit of what was measured"
            value={list.words.unit ?? ""}
            onSet={(v) => change.mutate({ id: list.id, words: { unit: v || null } })}
          />
          <Switch
            id="gauge-move"
            label="Points outside: read at the nearest place"
            on={now(list).move ?? true}
            onSet={(move) => change.mutate({ id: list.id, words: { move } })}
          />
          <Switch
            id="gauge-along"
            label="As strain gauges: strain along each"
            on={along}
            onSet={(on) => set({ along: on })}
          />
          <Said />
          <div className="row-line actions">
            <Tables />
            <a className="link" href={here(`/api/gauges/${list.id}/points.uff`)} download>
              Displacements UFF
            </a>
            <button
              type="button"
              className="link"
              onClick={() => remove.mutate(list.id, { onSuccess: () => set({ gauges: null }) })}
            >
              Remove the list
            </button>
          </div>
        </>
      )}
    </div>
  );
}

function Said() {
  const asked = useGauges();
  if (asked.error) return <Refused error={asked.error} />;
  if (!asked.data) return null;
  const answer = asked.data;
  return (
    <>
      {answer.verdict && (
        <div className={`verdict verdict-${answer.state}`} data-testid="gauge-verdict">
          {answer.verdict}
        </div>
      )}
      {answer.more.rosettes.length > 0 && (
        <table className="figures" data-testid="rosettes">
          <thead>
            <tr>
              <th>rosette</th>
              <th>first {answer.unit}</th>
              <th>second</th>
              <th>angle</th>
            </tr>
          </thead>
          <tbody>
            {answer.more.rosettes.flatMap((r) =>
              (["computed", "measured"] as const).map((what) =>
                r[what] ? (
                  <tr key={`${r.name} ${what}`}>
                    <td>
                      {r.name}, {what}
                    </td>
                    <td>{figure(r[what]!.first)}</td>
                    <td>{figure(r[what]!.second)}</td>
                    <td>{figure(r[what]!.angle, 3)}°</td>
                  </tr>
                ) : null,
              ),
            )}
          </tbody>
        </table>
      )}
      {answer.caveats!.map((c) => (
        <div className="caveat caveat-in" key={c}>
          {c}
        </div>
      ))}
      <div className="quiet small-line">{answer.sentence}.</div>
    </>
  );
}

function Tables() {
  const words = useGaugeWords();
  const through = useGaugeWords(true);
  const { list } = useGaugeList();
  if (!words || !list) return null;
  return (
    <>
      <AnswerLeaves what="Points" kind="gauges" words={words} name={`${list.words.name} points`} />
      <AnswerLeaves what="Through the steps" kind="gauges" words={through!} name={`${list.words.name} steps`} />
    </>
  );
}
