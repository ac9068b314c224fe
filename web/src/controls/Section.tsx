import { type ReactNode, useState } from "react";

interface Props {
  /** What the section is remembered by. */
  name: string;
  summary: ReactNode;
  children: ReactNode;
  className?: string;
  testid?: string;
  /** Open until it is closed by hand. */
  open?: boolean;
}

/** Sections opened or closed by hand, for as long as the page stands. */
const byHand = new Map<string, boolean>();

/** A part of a drawer that opens and closes, and is as it was left when one comes back to it. */
export function Section({ name, summary, children, className, testid, open = false }: Props) {
  const [, changed] = useState(0);
  const now = byHand.get(name) ?? open;
  return (
    <details className={className} data-testid={testid} open={now}>
      <summary
        onClick={(e) => {
          e.preventDefault();
          byHand.set(name, !now);
          changed((n) => n + 1);
        }}
      >
        {summary}
      </summary>
      {children}
    </details>
  );
}
