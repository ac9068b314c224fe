import { Box, ChevronDown, ChevronUp, LayoutGrid } from "lucide-react";
import { type DragEvent, type KeyboardEvent, useId, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { api, ask, type Exhibit } from "../api/client";
import { removeKept } from "../api/kept";
import { useChange, useReview } from "../api/queries";
import { useCovering } from "../bench/covered";
import { here } from "../bench/here";
import { say } from "../bench/notices";
import { Missing } from "../controls/Missing";
import { RenameField } from "../controls/RenameField";
import { useChosen } from "./chosen";
import { type Chapter, movedBy, useLooked, useOutline, useRearrange } from "./outline";

/** The exhibits as leaves on a table, chapters as bands between them; ordered by dragging, or by Alt and the arrows. */
export function Leaves() {
  const outline = useOutline();
  const review = useReview();
  const { of, model } = useChosen();
  const looked = useLooked();
  const rearrange = useRearrange();
  const table = useRef<HTMLDivElement>(null);
  const help = useId();
  useCovering(!model);
  const chapters = outline.data?.chapters ?? [];
  const shown = (c: Chapter) => c.exhibits.filter((e) => of === null || e.result === of);
  const all = chapters.flatMap(shown);

  if (model)
    return (
      <button type="button" className="ghost leaves-back" onClick={() => useChosen.setState({ model: false })}>
        <LayoutGrid size={15} /> Exhibits
      </button>
    );

  const look = (leaf: number) => {
    useChosen.setState({ leaf });
    table.current?.querySelector<HTMLElement>(`[data-leaf="${leaf}"]`)?.focus();
  };
  const move = (leaf: number, by: 1 | -1) => {
    const change = movedBy(chapters, leaf, by);
    if (!change) return say(by < 0 ? "It is the first." : "It is the last.");
    rearrange.mutate(change, {
      onSuccess: (now) => {
        const home = now.chapters.find((c) => c.exhibits.some((e) => e.id === leaf))!;
        const place = home.exhibits.findIndex((e) => e.id === leaf) + 1;
        say(`${place} of ${home.exhibits.length}${home.title ? ` in ${home.title}` : ""}.`);
      },
    });
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const leaf = (e.target as HTMLElement).dataset.leaf;
    if (leaf === undefined) return;
    const at = all.findIndex((x) => x.id === Number(leaf));
    const step = {
      ArrowLeft: -1,
      ArrowRight: 1,
      ArrowUp: -above(table.current, -1),
      ArrowDown: above(table.current, 1),
    }[e.key];
    const to = e.key === "Home" ? 0 : e.key === "End" ? all.length - 1 : step === undefined ? undefined : at + step;
    if (to === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    if (e.altKey && step !== undefined) move(Number(leaf), step < 0 ? -1 : 1);
    else if (all[to]) look(all[to].id);
  };
  const drop = (e: DragEvent, chapter: string, before: number | null) => {
    const exhibit = Number(e.dataTransfer.getData("application/x-leaf"));
    if (!exhibit || exhibit === before) return;
    e.preventDefault();
    e.stopPropagation();
    rearrange.mutate({ what: "move", exhibit, chapter, before });
  };

  return (
    <section className="leaf-table" aria-label="Exhibits, in order" data-testid="leaves">
      <div className="leaves-head">
        <b>
          {all.length} exhibit{all.length === 1 ? "" : "s"}
        </b>
        <Form.Select
          size="sm"
          aria-label="Of which result"
          value={of ?? ""}
          onChange={(e) => useChosen.setState({ of: e.target.value === "" ? null : Number(e.target.value) })}
        >
          <option value="">of all results</option>
          {review.data?.results.map((r) => (
            <option key={r.id} value={r.id}>
              of {r.name}
            </option>
          ))}
        </Form.Select>
        <NewChapter />
        <button type="button" className="ghost" onClick={() => useChosen.setState({ model: true })}>
          <Box size={15} /> Model
        </button>
      </div>
      <p className="visually-hidden" id={help}>
        Arrows go from leaf to leaf, Alt and an arrow move the leaf, F2 names it anew, Delete removes it.
      </p>
      <div className="leaves-table" ref={table} role="presentation" onKeyDown={onKeyDown}>
        {!all.length && (
          <div className="quiet leaves-none">
            <Missing
              asked={outline}
              reading="Reading the exhibits …"
              empty={
                of === null ? (
                  <>
                    Nothing kept yet. <b>Keep as exhibit</b> (key K) stores the view, the curve or the agreement with
                    what it is. It then lies here as a leaf.
                  </>
                ) : (
                  <>Nothing is kept of this result.</>
                )
              }
            />
          </div>
        )}
        {chapters.map((chapter, i) => (
          <section
            key={chapter.title}
            className="leaves-chapter"
            aria-label={chapter.title || "Before the first chapter"}
            onDragOver={(e) => e.dataTransfer.types.includes("application/x-leaf") && e.preventDefault()}
            onDrop={(e) => drop(e, chapter.title, null)}
          >
            {chapter.title && <Band chapter={chapter} chapters={chapters} at={i} />}
            <ul className="leaves-row" aria-describedby={help}>
              {shown(chapter).map((e) => (
                <Leaf
                  key={e.id}
                  exhibit={e}
                  chosen={looked?.id === e.id}
                  onDrop={(event) => drop(event, chapter.title, e.id)}
                />
              ))}
            </ul>
            {chapter.title && !shown(chapter).length && <p className="quiet leaves-none">Drop a leaf here.</p>}
          </section>
        ))}
      </div>
    </section>
  );
}

/** How many leaves on the one above (-1) or below (1) the focused one is: those of one row have one top. */
function above(table: HTMLElement | null, way: 1 | -1): number {
  const leaves = [...(table?.querySelectorAll<HTMLElement>("[data-leaf]") ?? [])];
  const at = leaves.indexOf(document.activeElement as HTMLElement);
  if (at < 0) return 1;
  const here = leaves[at]!.getBoundingClientRect();
  for (let n = 1; leaves[at + way * n]; n++) {
    const other = leaves[at + way * n]!.getBoundingClientRect();
    const next = leaves[at + way * (n + 1)]?.getBoundingClientRect();
    const beyond = way > 0 ? other.top > here.top : other.top < here.top;
    const nearest =
      !next || next.top !== other.top || Math.abs(next.left - here.left) >= Math.abs(other.left - here.left);
    if (beyond && nearest) return n;
  }
  return 1;
}

function Leaf({
  exhibit: e,
  chosen,
  onDrop,
}: {
  exhibit: Exhibit;
  chosen: boolean;
  onDrop: (event: DragEvent) => void;
}) {
  const [plain, setPlain] = useState(false);
  const [naming, setNaming] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const rename = useChange((title: string) =>
    ask(
      api.PUT("/api/exhibits/{exhibit}", {
        params: { path: { exhibit: e.id } },
        body: { title, note: e.note, verdict: e.verdict },
      }),
    ),
  );
  const remove = useChange(() => removeKept("exhibit", e.id));
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "F2") setNaming(true);
    else if (event.key === "Delete") {
      // The keyboard goes to the leaf beside it, and what is said does not hang on the leaf that goes.
      const leaves = [
        ...(button.current?.closest(".leaves-table")?.querySelectorAll<HTMLElement>("[data-leaf]") ?? []),
      ];
      const at = button.current ? leaves.indexOf(button.current) : -1;
      const beside = leaves[at + 1] ?? leaves[at - 1];
      if (beside) useChosen.setState({ leaf: Number(beside.dataset.leaf) });
      beside?.focus();
      const said = () => void say(`${e.title} is removed. Ctrl Z brings it back.`);
      remove.mutateAsync(undefined).then(said, () => undefined);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const state = e.state && { good: "agrees", doubt: "doubtful", bad: "does not agree" }[e.state];
  return (
    <li
      draggable
      onDragStart={(event) => event.dataTransfer.setData("application/x-leaf", String(e.id))}
      onDragOver={(event) => event.dataTransfer.types.includes("application/x-leaf") && event.preventDefault()}
      onDrop={onDrop}
    >
      <button
        type="button"
        className={`leaf ${chosen ? "on" : ""} ${e.changed ? "exhibit-changed" : ""}`}
        data-leaf={e.id}
        data-testid="leaf"
        data-title={e.title}
        aria-pressed={chosen}
        aria-keyshortcuts="F2 Delete"
        ref={button}
        onKeyDown={onKeyDown}
        onDoubleClick={() => setNaming(true)}
        tabIndex={chosen ? 0 : -1}
        title={`${e.sentence}. F2 or a double click names it anew, Delete removes it.`}
        onClick={() => useChosen.setState({ leaf: e.id })}
      >
        {plain ? (
          <span className="leaf-words" aria-hidden="true">
            {e.sentence}
          </span>
        ) : (
          <img
            src={here(`/api/exhibits/${e.id}/leaf?revision=${e.revision}`)}
            alt=""
            loading="lazy"
            draggable={false}
            onError={() => setPlain(true)}
          />
        )}
        {!naming && <span className="leaf-title">{e.title}</span>}
        {(state || e.changed) && (
          <span className={`leaf-state ${e.state && `verdict-${e.state}`}`}>
            {[state, e.changed && "may have changed"].filter(Boolean).join(", ")}
          </span>
        )}
      </button>
      {naming && (
        <RenameField
          what={e.title}
          onDone={(title) => {
            setNaming(false);
            button.current?.focus();
            if (title) rename.mutate(title);
          }}
        />
      )}
    </li>
  );
}

function Band({ chapter, chapters, at }: { chapter: Chapter; chapters: Chapter[]; at: number }) {
  const rearrange = useRearrange();
  const [title, setTitle] = useState(chapter.title);
  const named = chapters.filter((c) => c.title);
  const lift = (by: 1 | -1) => {
    const other = by < 0 ? chapters[at - 1] : chapters[at + 2];
    rearrange.mutate({ what: "lift", chapter: chapter.title, before_chapter: other?.title ?? null });
  };
  const rename = () => {
    if (title.trim() && title.trim() !== chapter.title)
      rearrange.mutate(
        { what: "rename", chapter: chapter.title, title: title.trim() },
        { onError: () => setTitle(chapter.title) },
      );
    else setTitle(chapter.title);
  };
  return (
    <div className="leaves-band">
      <input
        aria-label={`Title of the chapter ${chapter.title}`}
        value={title}
        maxLength={120}
        onChange={(e) => setTitle(e.target.value)}
        onBlur={rename}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setTitle(chapter.title);
        }}
      />
      <button
        type="button"
        className="ghost icon"
        aria-label={`${chapter.title} up`}
        disabled={named[0] === chapter}
        onClick={() => lift(-1)}
      >
        <ChevronUp size={14} />
      </button>
      <button
        type="button"
        className="ghost icon"
        aria-label={`${chapter.title} down`}
        disabled={at === chapters.length - 1}
        onClick={() => lift(1)}
      >
        <ChevronDown size={14} />
      </button>
      <button
        type="button"
        className="link"
        title="Its exhibits go to the chapter before it"
        onClick={() => rearrange.mutate({ what: "drop", chapter: chapter.title })}
      >
        Remove
      </button>
    </div>
  );
}

function NewChapter() {
  const rearrange = useRearrange();
  const [title, setTitle] = useState("");
  return (
    <form
      className="leaves-new"
      onSubmit={(e) => {
        e.preventDefault();
        if (title.trim()) rearrange.mutate({ what: "add", title: title.trim() }, { onSuccess: () => setTitle("") });
      }}
    >
      <Form.Control
        size="sm"
        aria-label="New chapter"
        placeholder="New chapter"
        maxLength={120}
        value={title}
        onChange={(e) => setTitle(e.target.value)}
      />
      <button type="submit" className="ghost" disabled={!title.trim()}>
        Add
      </button>
    </form>
  );
}
