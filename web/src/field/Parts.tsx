import { ChevronDown, ChevronRight, Eye, EyeOff, Ghost, Square } from "lucide-react";
import { type MouseEvent, useState } from "react";
import type { Contents } from "../api/client";
import { freshReading, useBench } from "../bench/store";
import { chosenAfter, groupsOf } from "./parts";

const sorted = (list: Iterable<number>) => [...new Set(list)].sort((a, b) => a - b);

/** Parts by list: searched, in groups, one or several shown, alone, seen through. */
export function Parts({ contents }: { contents: Contents }) {
  const { look, setLook, picking, set, setReading, reading } = useBench(
    "look",
    "setLook",
    "picking",
    "set",
    "setReading",
    "reading",
  );
  const [search, setSearch] = useState("");
  const [chosen, setChosen] = useState<number[]>([]);
  const [last, setLast] = useState<number | null>(null);
  const [closed, setClosed] = useState<string[]>([]);
  const names = contents.parts.map((p) => p.name);
  const all = names.map((_, i) => i);
  const fits = (i: number) => names[i]!.toLowerCase().includes(search.toLowerCase());
  const rows = groupsOf(names).flatMap((row) => {
    if (typeof row === "number") return fits(row) ? [{ stem: "", members: [row] }] : [];
    const members = row.members.filter(fits);
    return members.length ? [{ stem: row.stem, members }] : [];
  });
  const visible = rows.flatMap((r) => (r.stem && closed.includes(r.stem) ? [] : r.members));
  const named = contents.fields.find((f) => f.name === "part" && f.labels.length > 0);
  /** What an act on a row is of: all that is chosen, where the row is among it. */
  const meant = (members: number[]) => (members.every((i) => chosen.includes(i)) ? chosen : members);
  const show = (of: number[], on: boolean) => {
    const hidden = on ? look.hidden.filter((i) => !of.includes(i)) : sorted([...look.hidden, ...of]);
    if (hidden.length < all.length) setLook({ hidden });
  };
  const through = (of: number[], on: boolean) =>
    setLook({
      translucent: on ? sorted([...look.translucent, ...of]) : look.translucent.filter((i) => !of.includes(i)),
    });
  const choose = (i: number, e: MouseEvent) => {
    setChosen(chosenAfter(chosen, last, i, visible, { shift: e.shiftKey, control: e.ctrlKey || e.metaKey }));
    setLast(i);
  };
  const buttons = (members: number[], name: string) => {
    const of = meant(members);
    const shown = of.some((i) => !look.hidden.includes(i));
    const stays = shown && all.every((i) => look.hidden.includes(i) || of.includes(i));
    const seen = of.every((i) => look.translucent.includes(i));
    return (
      <>
        <button
          type="button"
          className="icon"
          aria-pressed={shown}
          aria-label={`Show ${name}`}
          title={stays ? "The last part stays" : shown ? "Shown: hide" : "Hidden: show"}
          disabled={stays}
          onClick={() => show(of, !shown)}
        >
          {shown ? <Eye size={15} /> : <EyeOff size={15} />}
        </button>
        <button
          type="button"
          className="icon"
          aria-pressed={seen}
          aria-label={`See through ${name}`}
          title="Translucent"
          disabled={!shown}
          onClick={() => through(of, !seen)}
        >
          {seen ? <Ghost size={15} /> : <Square size={15} />}
        </button>
        <button
          type="button"
          className="link"
          aria-label={`${name} alone`}
          onClick={() => setLook({ hidden: all.filter((k) => !of.includes(k)) })}
        >
          alone
        </button>
      </>
    );
  };
  const row = (i: number, inGroup: boolean) => (
    <div
      className={`part-row ${inGroup ? "in-group" : ""} ${look.hidden.includes(i) ? "off" : ""} ${chosen.includes(i) ? "chosen-row" : ""}`}
      key={names[i]}
    >
      <button
        type="button"
        className="name link-plain"
        aria-pressed={chosen.includes(i)}
        title={`${names[i]}: a click chooses it, Ctrl adds it, Shift all up to it`}
        onClick={(e) => choose(i, e)}
      >
        {names[i]}
      </button>
      <span className="fig quiet">{contents.parts[i]!.elements.toLocaleString("en").replaceAll(",", "\u202f")}</span>
      {buttons([i], names[i]!)}
    </div>
  );
  return (
    <>
      <h3>Parts</h3>
      {contents.parts.length > 8 && (
        <input
          className="form-control form-control-sm"
          placeholder="Search parts"
          aria-label="Search parts"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      )}
      <div className="parts-list" data-testid="parts">
        {rows.map((r) => {
          if (!r.stem) return row(r.members[0]!, false);
          const open = !closed.includes(r.stem);
          return (
            <div key={`group ${r.stem}`}>
              <div className="part-row part-group">
                <button
                  type="button"
                  className="name link-plain"
                  aria-expanded={open}
                  onClick={() => setClosed(open ? [...closed, r.stem] : closed.filter((s) => s !== r.stem))}
                >
                  {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />} {r.stem}{" "}
                  <span className="fig quiet">{r.members.length} parts</span>
                </button>
                {buttons(r.members, `all ${r.stem}`)}
              </div>
              {open && r.members.map((i) => row(i, true))}
            </div>
          );
        })}
        {!rows.length && <div className="quiet">No part is called so.</div>}
      </div>
      {chosen.length > 1 && (
        <div className="quiet small-line" role="status">
          {chosen.length} parts are chosen: what is done to one of them is done to all.{" "}
          <button type="button" className="link" onClick={() => setChosen([])}>
            Choose none
          </button>
        </div>
      )}
      <div className="row-line actions">
        <button
          type="button"
          className="ghost"
          disabled={!look.hidden.length && !look.translucent.length}
          onClick={() => setLook({ hidden: [], translucent: [] })}
        >
          Show all
        </button>
        <button
          type="button"
          className={`ghost ${picking === "hide" ? "on" : ""}`}
          aria-pressed={picking === "hide"}
          disabled={contents.parts.length < 2}
          title={contents.parts.length < 2 ? "There is one part" : "A click on the model hides the part under it"}
          onClick={() => set({ picking: picking === "hide" ? "flag" : "hide" })}
        >
          Hide by click
        </button>
        {named && reading?.field !== "part" && (
          <button
            type="button"
            className="ghost"
            title="Each part in a colour of its own, with a key of names"
            onClick={() => setReading({ ...freshReading("part", named.measures[0]?.name ?? "value") })}
          >
            Colour by part
          </button>
        )}
      </div>
    </>
  );
}
