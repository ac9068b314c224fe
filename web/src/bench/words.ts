// Made by tools/reading_words.py from the words of core/reading/reading.py: change those, then `make client`.

/** One word of a reading: what it can be, and what it is where nothing is said. */
export interface Word {
  kind: "choice" | "flag" | "number" | "text";
  usual: string | number | boolean | null;
  choices: readonly string[];
  low: number | null;
  high: number | null;
  /** The word without which it means nothing, at that one's usual value. */
  goesWith: string;
  /** Whether it means the same in another result. */
  carried: boolean;
}

/** The reading in view, without its step. */
export interface ReadingChoice {
  /** Name of the field. */
  field: string;
  /** von-mises, principal-1, xx, hoop, magnitude, ... */
  measure: string;
  /** off, element, part, material or all. */
  averaging: "off" | "element" | "part" | "material" | "all";
  /** What is averaged first: components or measure. */
  order: "components" | "measure";
  /** all, part:NAME, material:NAME or set:NAME. */
  region: string;
  /** Unit of the answer; the result's where none is named. */
  unit: string | null;
  /** value, jump or jump-within-material (at a node), or error. */
  of: "value" | "jump" | "jump-within-material" | "error";
  /** global, element, material, or axes kept with the result. */
  axes: string;
  /** Normal of the plane for a traction: X,Y,Z in the axes. */
  plane: string | null;
  /** What counts in a mean at a node: plain, or by volume. */
  weight: "plain" | "volume";
  /** Degrees above which shells are not averaged across a fold. */
  fold: number;
  /** step, or largest, smallest, magnitude over many steps. */
  over: "step" | "largest" | "smallest" | "magnitude";
  /** Which steps: all, so-far (up to the step), A:B, or A,B,C, counted from 0. */
  span: string;
  /** The step at which, in place of the value. */
  when: boolean;
  /** Take off the same with some words changed: 'step=0;averaging=all'. */
  against: string | null;
  /** N, N:PLACE, largest, smallest, magnitude; 1 is the bottom. Of plies also sheet:NAME, worst. */
  layer: string;
  /** Of a harmonic: degrees, magnitude, peak, or angle (of the peak). */
  phase: string;
  /** Of the failure of plies: hashin, puck, ...; with +bond behind it also the bond lines. */
  criterion: string;
}

export const WORDS: Record<keyof ReadingChoice, Word> = {
  field: {
    kind: "text",
    usual: "",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  measure: {
    kind: "text",
    usual: "",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  averaging: {
    kind: "choice",
    usual: "off",
    choices: ["off", "element", "part", "material", "all"],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  order: {
    kind: "choice",
    usual: "components",
    choices: ["components", "measure"],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  region: {
    kind: "text",
    usual: "all",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  unit: {
    kind: "text",
    usual: null,
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  of: {
    kind: "choice",
    usual: "value",
    choices: ["value", "jump", "jump-within-material", "error"],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  axes: {
    kind: "text",
    usual: "global",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  plane: {
    kind: "text",
    usual: null,
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  weight: {
    kind: "choice",
    usual: "plain",
    choices: ["plain", "volume"],
    low: null,
    high: null,
    goesWith: "",
    carried: true,
  },
  fold: {
    kind: "number",
    usual: 20,
    choices: [],
    low: 0,
    high: 180,
    goesWith: "",
    carried: true,
  },
  over: {
    kind: "choice",
    usual: "step",
    choices: ["step", "largest", "smallest", "magnitude"],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  span: {
    kind: "text",
    usual: "all",
    choices: [],
    low: null,
    high: null,
    goesWith: "over",
    carried: false,
  },
  when: {
    kind: "flag",
    usual: false,
    choices: [],
    low: null,
    high: null,
    goesWith: "over",
    carried: false,
  },
  against: {
    kind: "text",
    usual: null,
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  layer: {
    kind: "text",
    usual: "",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  phase: {
    kind: "text",
    usual: "",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
  criterion: {
    kind: "text",
    usual: "",
    choices: [],
    low: null,
    high: null,
    goesWith: "",
    carried: false,
  },
};
