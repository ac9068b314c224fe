import type { ReactNode } from "react";

/** A tab under the view: a plot with its table, or a table alone. A bay says which are its own. */
export interface StrataTab {
  name: string;
  label: string;
  title: string;
  /** What is drawn; none of a table that stands alone. */
  plot?: () => ReactNode;
  table: () => ReactNode;
  /** Whether it is a view of the curve in view, and so has its downloads. */
  pairing?: boolean;
  /** Whether it has something to show; what has not takes no room, but for the bay that would fill it. */
  useThere: () => boolean;
}

/** Whether a list has something in it; while it is not known, it may. */
export const some = (asked: { data?: unknown[] }) => asked.data === undefined || asked.data.length > 0;
