import type { Schemas } from "../api/client";

/** Something of a bay that can be kept: the questions it is asked by, and its picture where it has one. */
export interface Offer {
  name: string;
  /** What it is called among the others: "the profile". */
  label: string;
  of: "curve" | "table";
  /** Its title where none is typed. */
  usual: string;
  /** What it says, as soon as it is there; until then it cannot be kept. */
  sentence: string | undefined;
  questions: Schemas["Asked"][];
  picture?: (caption: string) => Promise<string>;
}
