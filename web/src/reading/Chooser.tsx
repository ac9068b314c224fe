import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { Overlay, Popover } from "react-bootstrap";

export interface Choice {
  value: string;
  label: string;
  explanation?: string;
  /** Why it cannot be chosen here; shown instead of hiding it. */
  impossible?: string;
  note?: string;
}

interface Props {
  label: string;
  title: string;
  choices: Choice[];
  value: string;
  onChoose: (value: string) => void;
  className?: string;
  marked?: boolean;
}

/** A word that opens its choices right there: searchable, each with a line of explanation, by keyboard alone if wished. */
export function Chooser({ label, title, choices, value, onChoose, className = "", marked = false }: Props) {
  const [open, setOpen] = useState(false);
  const [search, setSearch] = useState("");
  const [active, setActive] = useState(0);
  const button = useRef<HTMLButtonElement>(null);
  const list = useRef<HTMLDivElement>(null);
  const id = useId();
  const found = choices.filter((c) => `${c.label} ${c.explanation ?? ""}`.toLowerCase().includes(search.toLowerCase()));

  // biome-ignore lint/correctness/useExhaustiveDependencies: the choice in force matters only when it opens
  useEffect(() => {
    if (!open) return;
    setSearch("");
    setActive(
      Math.max(
        0,
        choices.findIndex((c) => c.value === value),
      ),
    );
  }, [open]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is active is found in the document
  useEffect(() => {
    list.current?.querySelector('[data-active="true"]')?.scrollIntoView({ block: "nearest" });
  }, [active, open]);

  const close = () => {
    setOpen(false);
    button.current?.focus();
  };
  const choose = (choice: Choice | undefined) => {
    if (!choice || choice.impossible) return;
    onChoose(choice.value);
    close();
  };
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "ArrowDown") setActive((a) => Math.min(found.length - 1, a + 1));
    else if (e.key === "ArrowUp") setActive((a) => Math.max(0, a - 1));
    else if (e.key === "Enter") choose(found[active]);
    else if (e.key === "Escape") close();
    else if (e.key === "Tab") close();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <>
      <button
        type="button"
        ref={button}
        className={`word ${marked ? "word-marked" : ""} ${className}`}
        aria-haspopup="listbox"
        aria-expanded={open}
        aria-label={`${title}: ${label}`}
        onClick={() => setOpen(!open)}
      >
        {label}
      </button>
      <Overlay target={button} show={open} placement="bottom-start" rootClose onHide={() => setOpen(false)}>
        <Popover className="chooser" id={id}>
          <div onKeyDown={onKey} role="presentation">
            {choices.length > 6 && (
              <input
                className="form-control form-control-sm"
                placeholder={`Search ${title.toLowerCase()}`}
                aria-label={`Search ${title.toLowerCase()}`}
                value={search}
                onChange={(e) => {
                  setSearch(e.target.value);
                  setActive(0);
                }}
                // biome-ignore lint/a11y/noAutofocus: the chooser was opened to be searched
                autoFocus
              />
            )}
            <div
              className="chooser-list"
              role="listbox"
              aria-label={title}
              ref={(element) => {
                list.current = element;
                if (element && choices.length <= 6 && !element.contains(document.activeElement)) element.focus();
              }}
              tabIndex={-1}
            >
              {found.map((c, i) => (
                <div
                  key={c.value}
                  role="option"
                  tabIndex={-1}
                  aria-selected={c.value === value}
                  aria-disabled={Boolean(c.impossible)}
                  data-active={i === active}
                  className="choice"
                  onMouseEnter={() => setActive(i)}
                  onClick={() => choose(c)}
                  onKeyDown={onKey}
                >
                  <span className="choice-label">
                    {c.label}
                    {c.note && <span className="choice-note">{c.note}</span>}
                  </span>
                  {(c.impossible || c.explanation) && <small>{c.impossible || c.explanation}</small>}
                </div>
              ))}
              {!found.length && <div className="choice quiet">Nothing fits.</div>}
            </div>
          </div>
        </Popover>
      </Overlay>
    </>
  );
}
