import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ChevronDown } from "lucide-react";
import { type FormEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Overlay, Popover } from "react-bootstrap";
import { api, ask } from "../api/client";
import { reopen } from "../api/events";
import { useChange, useContents, useReview } from "../api/queries";
import { useBench, usePane } from "../bench/store";
import { turnToResult } from "../lines/turning";

/** The result in view and the review it is in: another one chosen, either of them named, a review made or opened. */
export function ReviewMenu({
  nameless,
  open,
  onOpen,
}: {
  nameless: string;
  open: boolean;
  onOpen: (open: boolean) => void;
}) {
  const result = useBench((s) => s.result);
  const review = useReview();
  const contents = useContents(result);
  const button = useRef<HTMLButtonElement>(null);
  const name = contents.data?.name ?? nameless;
  const close = () => {
    onOpen(false);
    button.current?.focus();
  };
  return (
    <>
      <button
        type="button"
        ref={button}
        className="review-name"
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-keyshortcuts="r"
        title={`${name}, of the review ${review.data?.name ?? ""} (${review.data?.file ?? ""}). Another result, another review, names: key R`}
        onClick={() => onOpen(!open)}
      >
        <span className="names">
          <span>{name}</span>
          <small>{review.data?.name ?? ""}</small>
        </span>
        <ChevronDown size={14} aria-hidden="true" />
      </button>
      <Overlay target={button} show={open} placement="bottom-start" rootClose onHide={() => onOpen(false)}>
        <Popover className="review-menu" aria-label="Results and reviews" role="dialog">
          <Inside onClose={close} />
        </Popover>
      </Overlay>
    </>
  );
}

function Inside({ onClose }: { onClose: () => void }) {
  const result = useBench((s) => s.result);
  const pane = usePane();
  const review = useReview();
  const contents = useContents(result);
  const client = useQueryClient();
  const shelf = useQuery({ queryKey: ["reviews"], queryFn: ({ signal }) => ask(api.GET("/api/reviews", { signal })) });
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    (list.current?.querySelector<HTMLElement>("[aria-current=true]") ?? list.current?.querySelector("button"))?.focus();
  }, []);
  const rename = useChange((name: string) =>
    ask(api.PUT("/api/results/{result}/name", { params: { path: { result: result! } }, body: { name } })),
  );
  const renameReview = useChange((name: string) => ask(api.PUT("/api/review/name", { body: { name } })));
  const turn = useChange(async (to: { make: string; folder: number } | { file: string; folder: number }) => {
    const made =
      "make" in to
        ? await ask(api.POST("/api/reviews", { body: { name: to.make, folder: to.folder } }))
        : await ask(api.POST("/api/reviews/open", { body: to }));
    // Nothing of the review before may be taken for this one's.
    client.setQueryData(["review"], made);
    reopen("make" in to ? `The review ${made.name} was made.` : `The review ${made.name} is open.`, made.address);
  });
  const [folder, setFolder] = useState(0);
  const others = (shelf.data?.reviews ?? []).filter((r) => !r.open);
  const folders = shelf.data?.folders ?? [];
  return (
    <div className="review-menu-in" onKeyDown={(e) => steps(e, onClose)}>
      <h3 className="sub" id="results-of">
        Results of this review
      </h3>
      <div className="menu-list" ref={list} role="group" aria-labelledby="results-of">
        {(review.data?.results ?? []).map((r) => (
          <button
            type="button"
            key={r.id}
            className={`menu-row ${r.id === result ? "on" : ""}`}
            aria-current={r.id === result}
            onClick={() => {
              void turnToResult(client, pane, r.id);
              onClose();
            }}
          >
            {r.name}
          </button>
        ))}
        {!review.data?.results.length && <div className="quiet">None yet: take one in (key 1).</div>}
      </div>
      {contents.data && (
        <Named
          key={`result ${contents.data.name}`}
          label="Name of this result"
          name={contents.data.name}
          onName={(name) => rename.mutate(name)}
        />
      )}
      {review.data && (
        <Named
          key={`review ${review.data.name}`}
          label="Name of this review"
          name={review.data.name}
          onName={(name) => renameReview.mutate(name)}
        />
      )}
      <h3 className="sub" id="other-reviews">
        Other reviews
      </h3>
      <div className="menu-list" role="group" aria-labelledby="other-reviews">
        {others.map((r) => (
          <button
            type="button"
            key={`${r.folder} ${r.file}`}
            className="menu-row"
            disabled={turn.isPending}
            onClick={() => turn.mutate({ file: r.file, folder: r.folder })}
          >
            {r.name}{" "}
            <small className="quiet">
              {r.file}
              {folders.length > 1 && `, in ${folders[r.folder]}`}
            </small>
          </button>
        ))}
        {shelf.error && <div role="alert">{shelf.error.message}</div>}
        {shelf.data && !others.length && <div className="quiet">None in {folders.join(", ")}.</div>}
      </div>
      <Named label="New review" name="" word="Make" onName={(name) => turn.mutate({ make: name, folder })} />
      {folders.length > 1 && (
        <label className="row-line">
          made in
          <select
            className="form-select form-select-sm"
            value={folder}
            onChange={(e) => setFolder(Number(e.target.value))}
          >
            {folders.map((f, i) => (
              <option key={f} value={i}>
                {f}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

/** A name that can be typed anew. */
function Named(props: { label: string; name: string; word?: string; onName: (name: string) => void }) {
  const { label, name, word = "Rename", onName } = props;
  const [text, setText] = useState(name);
  const changed = text.trim() !== "" && text.trim() !== name;
  const done = (e: FormEvent) => {
    e.preventDefault();
    if (changed) onName(text.trim());
  };
  return (
    <form className="menu-name" onSubmit={done}>
      <label>
        {label}
        <input
          className="form-control form-control-sm"
          maxLength={80}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <button type="submit" className="ghost" disabled={!changed}>
        {word}
      </button>
    </form>
  );
}

/** Arrows go from row to row; Escape closes. */
function steps(e: KeyboardEvent<HTMLElement>, onClose: () => void): void {
  e.stopPropagation();
  if (e.key === "Escape") {
    e.preventDefault();
    onClose();
    return;
  }
  if ((e.key !== "ArrowDown" && e.key !== "ArrowUp") || !(e.target instanceof HTMLButtonElement)) return;
  const rows = [...e.currentTarget.querySelectorAll<HTMLElement>(".menu-row")];
  const at = rows.indexOf(e.target);
  if (at < 0) return;
  e.preventDefault();
  rows[Math.min(rows.length - 1, Math.max(0, at + (e.key === "ArrowDown" ? 1 : -1)))]?.focus();
}
