import { useState } from "react";

/** A name typed anew where it stands; Escape leaves it as it was. */
export function RenameField({ what, onDone }: { what: string; onDone: (name: string | null) => void }) {
  const [text, setText] = useState(what);
  return (
    <form
      className="row-line name-field"
      onSubmit={(e) => {
        e.preventDefault();
        onDone(text.trim() && text.trim() !== what ? text.trim() : null);
      }}
    >
      <input
        className="form-control form-control-sm"
        aria-label={`New name of ${what}`}
        maxLength={120}
        value={text}
        // biome-ignore lint/a11y/noAutofocus: it was asked for to be typed in
        autoFocus
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          e.stopPropagation();
          onDone(null);
        }}
      />
      <button type="submit" className="ghost">
        Rename
      </button>
    </form>
  );
}
