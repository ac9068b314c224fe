import { useCombobox } from "downshift";
import { useId, useRef, useState } from "react";
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
  /** The keys that change it too. */
  keys?: string;
}

/** A word that opens its choices right there: searchable, each with a line of explanation, by keyboard alone if wished. */
export function Chooser({ label, title, choices, value, onChoose, className = "", marked = false, keys }: Props) {
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const id = useId();
  const close = () => {
    setOpen(false);
    button.current?.focus();
  };
  return (
    <>
      <button
        type="button"
        ref={button}
        className={`word ${marked ? "word-marked" : ""} ${className}`}
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-label={`${title}: ${label}`}
        title={keys ? `${title} (${keys})` : title}
        onClick={() => setOpen(!open)}
      >
        {label}
      </button>
      <Overlay target={button} show={open} placement="bottom-start" rootClose onHide={() => setOpen(false)}>
        <Popover className="chooser" id={id} role="dialog" aria-label={title}>
          <Choices
            title={title}
            choices={choices}
            value={value}
            onClose={close}
            onChoose={(chosen) => {
              onChoose(chosen);
              close();
            }}
          />
        </Popover>
      </Overlay>
    </>
  );
}

interface ChoicesProps {
  title: string;
  choices: Choice[];
  value: string;
  onChoose: (value: string) => void;
  onClose: () => void;
}

/** The list, open as long as it is there. What is impossible can be reached, and says why; it cannot be chosen. */
function Choices({ title, choices, value, onChoose, onClose }: ChoicesProps) {
  const [search, setSearch] = useState("");
  const wanted = search.toLowerCase();
  const found = choices.filter((c) => `${c.label} ${c.explanation ?? ""}`.toLowerCase().includes(wanted));
  const list = useCombobox<Choice>({
    items: found,
    isOpen: true,
    inputValue: search,
    selectedItem: null,
    itemToString: () => search,
    initialHighlightedIndex: Math.max(
      0,
      choices.findIndex((c) => c.value === value),
    ),
    defaultHighlightedIndex: 0,
    // What is highlighted when the list is left is not chosen by that.
    stateReducer: (state, { type, changes }) => (type === useCombobox.stateChangeTypes.InputBlur ? state : changes),
    onSelectedItemChange: ({ selectedItem }) => {
      if (selectedItem && !selectedItem.impossible) onChoose(selectedItem.value);
    },
  });
  const hint = `Search ${title.toLowerCase()}`;
  return (
    <div onKeyDown={(e) => e.stopPropagation()}>
      <input
        {...list.getInputProps({
          // At once, not with the list's own state: fast typing would lose letters.
          onChange: (e) => setSearch(e.currentTarget.value),
          onKeyDown: (e) => {
            if (e.key !== "Escape" && e.key !== "Tab") return;
            e.preventDefault();
            (e.nativeEvent as Event & { preventDownshiftDefault?: boolean }).preventDownshiftDefault = true;
            onClose();
          },
          "aria-label": hint,
        })}
        className="form-control form-control-sm"
        placeholder={hint}
        // biome-ignore lint/a11y/noAutofocus: the chooser was opened to be searched
        autoFocus
      />
      <div className="chooser-list" {...list.getMenuProps({ "aria-label": title })}>
        {found.map((c, i) => (
          <div
            key={c.value}
            className="choice"
            data-active={i === list.highlightedIndex}
            data-chosen={c.value === value}
            {...list.getItemProps({
              item: c,
              index: i,
              "aria-selected": c.value === value,
              "aria-disabled": Boolean(c.impossible),
            })}
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
  );
}
