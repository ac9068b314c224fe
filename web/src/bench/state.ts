import type { MapName } from "../theme/colours";
import type { Bay } from "./bays";
import { type ArrowChoice, freshLook, type Look } from "./look";
import { freshMotion, type MotionChoice } from "./motionState";
import type { ReadingChoice } from "./readingChoice";

export type { Bay } from "./bays";
export * from "./look";
export * from "./readingChoice";
export type Fit = "step" | "all" | "set";

/** What a click on the model does. */
export type Picking =
  | "stack"
  | "axes"
  | "flag"
  | "point"
  | "hide"
  | "length"
  | "angle"
  | "area"
  | "volume"
  | "path"
  | "plane"
  | "gauge";

/** The axes a click makes: the direction that is then read in them, and whether they come of a face or of three nodes. */
export interface Making {
  want: "" | "radial" | "hoop" | "axial" | "normal";
  by: "face" | "nodes";
}

/** Which flags are followed through the steps, and what of the elements that meet at one. */
export interface FlagChoice {
  only: number | null;
  take: "all" | "band" | "mean" | "max" | "min";
}

/** What has been picked to be measured. */
export interface Measuring {
  nodes: number[];
  face: number | null;
  fold: number;
  element: number | null;
}

export const nothingPicked: Measuring = { nodes: [], face: null, fold: 20, element: null };

/** What a click on the model found. */
export interface Pick {
  node: number;
  xyz: [number, number, number];
}

/** A line that is being made or changed. */
export interface Draft {
  /** The kept path it is, or null for a new one. */
  id: number | null;
  name: string;
  kind: string;
  /** Its places and numbers as they are written, one after the other. */
  values: string[];
  side: string;
  reverse: boolean;
  before: number;
  after: number;
}

/** What a profile is drawn over, and what stands beside it. */
export interface ProfileLook {
  /** "true", "relative", or a point "x,y,z" it is counted from. */
  distance: string;
  shape: "undeformed" | "deformed";
  linearise: boolean;
  formula: string;
  test: number | null;
}

export const freshProfile: ProfileLook = {
  distance: "true",
  shape: "undeformed",
  linearise: false,
  formula: "",
  test: null,
};

/** A profile that stays in the plot while the reading, the step or the line goes on. */
export interface HeldProfile {
  label: string;
  words: object;
}

/** The plane of two stresses a criterion's envelope is drawn in, and whether the third is that of the place that fails. */
export interface EnvelopeChoice {
  plane: "22-12" | "11-22" | "11-12";
  held: boolean;
}

/** A refinement study: its results (null: all that hold the same body), which value, and what the meshes are told apart by. */
export interface Study {
  results: number[] | null;
  take: "highest" | "lowest";
  size: "length" | "unknowns";
}

export const freshStudy: Study = { results: null, take: "highest", size: "length" };

/** What governs over steps and combinations: which value, and what the table has a row for. */
export interface Envelope {
  take: "largest" | "smallest" | "magnitude";
  by: "part" | "set" | "element";
}

export interface Playing {
  from: number;
  /** null: to the last step. */
  to: number | null;
  stride: number;
  way: "on" | "back" | "both";
  /** Only these steps, at which a condition holds, and the condition in words; null: all. */
  only: { steps: number[]; words: string } | null;
  /** Through the steps, or at one step through the phase of its harmonic or mode. */
  through: "steps" | "phase";
}

export const freshPlaying: Playing = { from: 0, to: null, stride: 1, way: "on", only: null, through: "steps" };

export interface Recent {
  result: number;
  reading: ReadingChoice;
  sentence: string;
}

/** Long work the view waits for: how far it is, and how to stop it. */
export interface Work {
  share: number;
  text: string;
  stop: () => void;
}

export interface KeyChoice {
  low: number | null;
  high: number | null;
  fit: Fit;
  bands: number;
  map: MapName;
  log: boolean;
  /** Lines of equal value at the borders of the bands: none, over the colours, or alone. */
  iso: "none" | "over" | "alone";
  /** What the distribution beside the key is by. */
  weigh: "area" | "volume";
}

export interface Camera {
  position: [number, number, number];
  target: [number, number, number];
  zoom: number;
}

/** The phase a mode is drawn at, in degrees, of one step of one result: another begins at its largest. */
export interface Swing {
  result: number | null;
  step: number;
  degrees: number;
}

interface Swinging {
  swing: Swing | null;
  result: number | null;
  step: number;
}

/** Where in its cycle the mode in view is drawn, in degrees; 0 of all that is no mode. */
export const swingOf = ({ swing, result, step }: Swinging): number =>
  swing && swing.result === result && swing.step === step ? swing.degrees : 0;

/** What displacements are drawn times: the exaggeration, of a mode within its cycle the share of it at that phase. */
export const shapeScale = (s: Swinging & { exaggeration: number }): number => {
  const degrees = swingOf(s);
  return degrees ? s.exaggeration * Math.cos((degrees * Math.PI) / 180) : s.exaggeration;
};

/** What belongs to one view of the bench. A bench has one pane; a second one stands beside it and moves on its own. */
export interface Pane {
  result: number | null;
  reading: ReadingChoice | null;
  /** The reading of the result that was in view before: it goes on where the new one has its field. */
  carried: ReadingChoice | null;
  step: number;
  exaggeration: number;
  /** Where in its cycle a mode is drawn; null: at its largest. */
  swing: Swing | null;
  meshLines: boolean;
  undeformed: boolean;
  key: KeyChoice;
  camera: Camera | null;
  look: Look;
  arrows: ArrowChoice | null;
  /** Highest and lowest labelled in place. */
  labelled: boolean;
  /** The next drag on the view zooms to the box it spans. */
  boxing: boolean;
  work: Work | null;
  measuring: Measuring;
  /** The member of bars in view, numbered from 1. */
  member: number | null;
  /** The paths whose profiles are drawn; null: the first. */
  paths: number[] | null;
  draft: Draft | null;
  profile: ProfileLook;
  held: HeldProfile[];
  /** Where the pointer is on the plot of profiles. */
  chainage: number | null;
  /** The cut that is chosen, and its plane while it is being moved. */
  cut: number | null;
  moving: string | null;
  /** The gauge list in view, and whether its gauges are read along their direction. */
  gauges: number | null;
  along: boolean;
  /** The element whose stack is in view. */
  element: number | null;
  /** The criterion the bay Strength asks by, and what its envelope is of. */
  criterion: string;
  envelope: EnvelopeChoice;
  /** The result this one is compared with. */
  second: number | null;
  study: Study;
  motion: MotionChoice;
  governing: Envelope;
  /** The front that is followed: where the reading has a value, the border of where it is at least that, or the edge of a surface
   * (which needs no value). No value and no edge: none. */
  front: FrontChoice;
  /** Two bodies whose contact is looked at, 'A|B'; '' every two. */
  between: string;
  /** What was shown before the way to a contact was cleared. */
  cleared: { look: Look; camera: Camera | null } | null;
  /** The table of several results in view. */
  table: number | null;
  /** Places picked for what is being made. */
  picks: Pick[];
  making: Making | null;
  flagSteps: FlagChoice;
}

/** What two panes do together; each tie can be cut by itself. */
export interface Ties {
  camera: boolean;
  step: boolean;
  parts: boolean;
  scale: boolean;
  limits: boolean;
  reading: boolean;
}

export const allTied: Ties = { camera: true, step: true, parts: true, scale: true, limits: true, reading: true };

export type Drawers = Partial<Record<Bay, string>>;

/** The drawers' tabs with another one open in a bay. */
export const drawerTab = (drawers: Drawers, bay: Bay, tab: string | undefined): Drawers => ({ ...drawers, [bay]: tab });

/** What the bench has once, whatever its panes show. */
export interface Shared {
  bay: Bay;
  strata: boolean;
  strataHeight: number;
  tab: string;
  /** The one that stands there where the tab has nothing to show: the one before it. */
  instead: string;
  /** What stands beside the plot of the tab: another tab's plot, or '' its table. */
  beside: string;
  playing: boolean;
  speed: number;
  play: Playing;
  picking: Picking;
  recent: Recent[];
  /** The tab that is open in the drawer of a bay; none: its first. */
  drawers: Drawers;
  pairing: number | null;
  /** The cycles of the curve in view that are looked at alone, from 1; none: all. */
  cycles: number[];
  /** The results the curve in view is drawn of beside this one. */
  also: number[];
  test: number | null;
  ties: Ties;
}

/** What can be done to a pane, and to the bench from it. */
export interface Actions {
  set: (change: Partial<Pane & Shared>) => void;
  setKey: (change: Partial<KeyChoice>) => void;
  setReading: (change: Partial<ReadingChoice>) => void;
  setLook: (change: Partial<Look>) => void;
  /** Another result comes into view: what belongs to the one before it is put away. */
  open: (result: number) => void;
}

/** The bench as one of its panes sees it. */
export type BenchState = Pane & Shared & Actions;

export const freshKey: KeyChoice = {
  low: null,
  high: null,
  fit: "step",
  bands: 9,
  map: "auto",
  log: false,
  iso: "none",
  weigh: "area",
};

export interface FrontChoice {
  value: number | null;
  along: string;
  border: "" | "region" | "edge";
}

export const freshFront: FrontChoice = { value: null, along: "", border: "" };

export const freshPane: Pane = {
  result: null,
  reading: null,
  carried: null,
  step: 0,
  exaggeration: 1,
  swing: null,
  meshLines: true,
  undeformed: true,
  key: freshKey,
  camera: null,
  look: freshLook,
  arrows: null,
  labelled: true,
  boxing: false,
  work: null,
  measuring: nothingPicked,
  member: null,
  paths: null,
  draft: null,
  profile: freshProfile,
  held: [],
  chainage: null,
  cut: null,
  moving: null,
  gauges: null,
  along: false,
  element: null,
  criterion: "hashin",
  envelope: { plane: "22-12", held: true },
  second: null,
  study: freshStudy,
  motion: freshMotion,
  governing: { take: "largest", by: "part" },
  front: freshFront,
  between: "",
  cleared: null,
  table: null,
  picks: [],
  making: null,
  flagSteps: { only: null, take: "all" },
};

export const freshShared: Shared = {
  bay: "field",
  strata: true,
  strataHeight: 232,
  tab: "loop",
  instead: "",
  beside: "",
  playing: false,
  speed: 10,
  play: freshPlaying,
  picking: "flag",
  recent: [],
  drawers: {},
  pairing: null,
  cycles: [],
  also: [],
  test: null,
  ties: allTied,
};
