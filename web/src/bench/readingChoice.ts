/** The reading in view as a pane holds it. */

export type Averaging = "off" | "element" | "part" | "material" | "all";
export type Of = "value" | "jump" | "jump-within-material" | "error";
export type Over = "step" | "largest" | "smallest" | "magnitude";

/** The reading in view, without its step. */
export interface ReadingChoice {
  field: string;
  measure: string;
  averaging: Averaging;
  order: "components" | "measure";
  region: string;
  unit: string | null;
  /** The value itself, how far it jumps between the elements that meet at a node, or the error estimated from it. */
  of: Of;
  axes: string;
  /** Normal of the plane a traction is taken on, "x,y,z" in the axes. */
  plane: string | null;
  weight: "plain" | "volume";
  /** Degrees above which shells are not averaged across a fold. */
  fold: number;
  over: Over;
  span: string;
  when: boolean;
  /** What the reading that is taken off has other than this one: "step=0;averaging=all". */
  against: string | null;
  /** Of a field with layers: "3", "3:top", "largest"; of a harmonic: degrees, "magnitude", "peak". */
  layer: string;
  phase: string;
  /** Of the failure of plies: "hashin", "hashin+bond"; "" the usual one. */
  criterion: string;
}

/** A reading as it starts: nothing averaged, one step, global axes. */
export const freshReading = (field: string, measure: string): ReadingChoice => ({
  field,
  measure,
  averaging: "off",
  order: "components",
  region: "all",
  unit: null,
  of: "value",
  axes: "global",
  plane: null,
  weight: "plain",
  fold: 20,
  over: "step",
  span: "all",
  when: false,
  against: null,
  layer: "",
  phase: "",
  criterion: "",
});

/** What of a reading means the same in another result: steps, parts, axes, layers and phases are its own there. */
export const carriedOver = (r: ReadingChoice): ReadingChoice => ({
  ...freshReading(r.field, r.measure),
  averaging: r.averaging,
  order: r.order,
  weight: r.weight,
  fold: r.fold,
  of: r.of,
  unit: r.unit,
});
