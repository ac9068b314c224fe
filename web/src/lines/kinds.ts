import type { Draft, Pick } from "../bench/store";
import { figure } from "../reading/format";

export interface LineField {
  label: string;
  kind: "point" | "direction" | "number" | "node" | "nodes";
  optional?: boolean;
}

/** A kind of line: how it is written, and what picks on the model make of it. */
export interface LineKind {
  kind: string;
  label: string;
  title: string;
  fields: LineField[];
  /** What the next click is asked for, by how many places are picked; null when a click starts anew. */
  asks: (picked: number) => string;
  /** The values after these picks. */
  picked: (picks: Pick[], values: string[]) => string[];
  /** So many picks are kept; the next begins again. */
  most: number;
}

const xyz = (p: Pick) => p.xyz.map((v) => String(Number(v.toPrecision(7)))).join(",");
const at = (picks: Pick[], i: number, values: string[]) => (picks[i] ? xyz(picks[i]) : (values[i] ?? ""));

export const lineKinds: LineKind[] = [
  {
    kind: "line",
    label: "straight",
    title: "A straight line through the body, from point to point",
    fields: [
      { label: "From", kind: "point" },
      { label: "To", kind: "point" },
    ],
    asks: (n) => ["Click where it starts.", "Click where it ends."][n % 2]!,
    picked: (picks, values) => [xyz(picks[0]!), at(picks, 1, values)],
    most: 2,
  },
  {
    kind: "nodes",
    label: "nodes",
    title: "From node to node, along element edges where two share one",
    fields: [{ label: "Nodes", kind: "nodes" }],
    asks: () => "Click node after node.",
    picked: (picks) => [picks.map((p) => p.node).join(",")],
    most: 200,
  },
  {
    kind: "edge",
    label: "edge",
    title: "Along a sharp edge of the outside, from one click on",
    fields: [
      { label: "A node on it", kind: "node" },
      { label: "Ends at node", kind: "node", optional: true },
    ],
    asks: (n) => ["Click a node on the edge.", "Click the node it ends at, or keep it as it is."][n % 2]!,
    picked: (picks) => picks.map((p) => String(p.node)),
    most: 2,
  },
  {
    kind: "route",
    label: "over the surface",
    title: "The shortest way over the surface, along element edges",
    fields: [
      { label: "From node", kind: "node" },
      { label: "To node", kind: "node" },
    ],
    asks: (n) => ["Click where it starts.", "Click where it ends."][n % 2]!,
    picked: (picks, values) => [String(picks[0]!.node), picks[1] ? String(picks[1].node) : (values[1] ?? "")],
    most: 2,
  },
  {
    kind: "arc",
    label: "arc",
    title: "A part of a circle: centre, normal, radius and sweep",
    fields: [
      { label: "Centre", kind: "point" },
      { label: "Normal", kind: "direction" },
      { label: "Radius to its start", kind: "direction" },
      { label: "Sweep, degrees", kind: "number" },
    ],
    asks: () => "Type it, or take the arc through three points.",
    picked: (_, values) => values,
    most: 0,
  },
  {
    kind: "arc3",
    label: "arc, 3 points",
    title: "The part of a circle through three points",
    fields: [
      { label: "From", kind: "point" },
      { label: "Through", kind: "point" },
      { label: "To", kind: "point" },
    ],
    asks: (n) => ["Click where it starts.", "Click a point on it.", "Click where it ends."][n % 3]!,
    picked: (picks, values) => [xyz(picks[0]!), at(picks, 1, values), at(picks, 2, values)],
    most: 3,
  },
  {
    kind: "radial",
    label: "radial",
    title: "Outwards from a centre, between two radii",
    fields: [
      { label: "Centre", kind: "point" },
      { label: "Direction", kind: "direction" },
      { label: "From radius", kind: "number" },
      { label: "To radius", kind: "number" },
    ],
    asks: () => "Type it; a click sets its direction.",
    picked: (picks, values) => {
      const centre = (values[0] || "0,0,0").split(",").map(Number);
      const way = picks[picks.length - 1]!.xyz.map((v, i) => v - (centre[i] ?? 0));
      const size = Math.hypot(...way) || 1;
      return [
        values[0] || "0,0,0",
        way.map((v) => String(Number((v / size).toPrecision(7)))).join(","),
        values[2] || "0",
        values[3] || String(Number(size.toPrecision(6))),
      ];
    },
    most: 1,
  },
  {
    kind: "section",
    label: "section",
    title: "Where a plane meets the surface",
    fields: [
      { label: "Point of the plane", kind: "point" },
      { label: "Its normal", kind: "direction" },
      { label: "The line near", kind: "point", optional: true },
    ],
    asks: (n) => (n === 0 ? "Click a point of the plane." : "A click moves the plane there."),
    picked: (picks, values) => {
      const place = xyz(picks[picks.length - 1]!);
      return [place, values[1] || "0,0,1", place];
    },
    most: 1,
  },
];

export const kindOf = (name: string) => lineKinds.find((k) => k.kind === name) ?? lineKinds[0]!;

export const freshDraft = (kind = "line"): Draft => ({
  id: null,
  name: "",
  kind,
  values: [],
  side: "",
  reverse: false,
  before: 0,
  after: 0,
});

/** How a draft is written; null while something of it is lacking. */
export function written(draft: Draft): string | null {
  const { fields } = kindOf(draft.kind);
  const values = fields.map((_, i) => (draft.values[i] ?? "").replace(/\s/g, ""));
  while (values.length && values[values.length - 1] === "" && fields[values.length - 1]!.optional) values.pop();
  if (!values.length || values.some((v) => v === "")) return null;
  if (draft.kind === "nodes" && !values[0]!.includes(",")) return null;
  return `${draft.kind.replace("arc3", "arc")}:${values.join(":")}`;
}

/** A written line as a draft. */
export function read(path: string): { kind: string; values: string[] } {
  const [kind, ...values] = path.split(":");
  return { kind: kind === "arc" && values.length === 3 ? "arc3" : kind!, values };
}

/** A line in few words, for a list. */
export function brief(path: string): string {
  const { kind, values } = read(path);
  const of = kindOf(kind);
  const short = (v: string, i: number) => {
    const what = of.fields[i]?.kind;
    if (what === "nodes") return `${v.split(",").length} nodes`;
    return v
      .split(",")
      .map((n) => figure(Number(n), 3))
      .join(", ");
  };
  return `${of.label}: ${values.slice(0, 2).map(short).join(" – ")}`;
}

/** Its words as the service takes them; null while something is lacking. */
export function lineWords(draft: Draft) {
  const path = written(draft);
  return path === null
    ? null
    : { path, side: draft.side, reverse: draft.reverse, before: draft.before, after: draft.after };
}
