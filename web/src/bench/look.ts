export type Style = "shaded" | "lines" | "inside" | "outline";

/** What of the model is drawn, and how; none of it changes a value. */
export interface Look {
  /** Parts by position: left out, and seen through. */
  hidden: number[];
  translucent: number[];
  /** Pieces a face's side is drawn in; 0 leaves it to the model's size. */
  detail: number;
  style: Style;
  nodes: boolean;
  apart: boolean;
  /** Bars and shells at their own section and thickness. */
  solid: boolean;
  /** A part turned over about a hinge so that its face lies open beside another's, as the service writes it; '' none. */
  turned: string;
  perspective: boolean;
  /** The other half of a result that is one half of a body. */
  mirrored: boolean;
}

export const freshLook: Look = {
  hidden: [],
  translucent: [],
  detail: 0,
  style: "shaded",
  nodes: false,
  apart: false,
  solid: false,
  turned: "",
  perspective: false,
  mirrored: true,
};

/** Arrows of a vector field, or crosses of a tensor's principals. */
export interface ArrowChoice {
  field: string;
  /** Length of the longest, and least distance between two, as shares of the model's size. */
  length: number;
  spacing: number;
  full: boolean;
  /** What of an arrow is at its point: the tail, the tip, or whichever keeps it outside the body (a push its tip, a pull its tail). */
  at: "tail" | "tip" | "outside";
  /** Each direction has an arrow of its own. */
  split: boolean;
  /** One arrow a node or face, or one a set: its resultant. */
  by: "node" | "set";
}

export const freshArrows = (field: string): ArrowChoice => ({
  field,
  length: 0.12,
  spacing: 0.04,
  full: false,
  at: "tail",
  split: false,
  by: "node",
});
