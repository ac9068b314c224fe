import type { ReactNode } from "react";
import { figure, percent } from "../reading/format";

const boxClass: Record<string, string> = { agrees: "good", doubtful: "doubt", fails: "bad" };
export const verdictClass: Record<string, string> = { agrees: "agrees", doubtful: "doubtful", fails: "failed" };

export function Verdict({ verdict, children }: { verdict: string; children: ReactNode }) {
  return (
    <div className={`verdict verdict-${boxClass[verdict] ?? "doubt"}`} data-testid="verdict" data-verdict={verdict}>
      <b>{verdict}</b> {children}
    </div>
  );
}

/** A share that is rounding is told as small, not by its digits. */
export const small = (share: number | null) =>
  share !== null && share < 1e-5 ? "less than 0.001\u202f%" : percent(share, 2);

/** How numbers of one table are written: thousands of N as kN. */
export interface Scale {
  unit: string;
  factor: number;
}

type Components = (number | null)[];

export function scaleOf(unit: string, vectors: Components[]): Scale {
  const most = Math.max(...vectors.flat().map((c) => Math.abs(c ?? 0)), 0);
  const large = unit.startsWith("N") && most >= 1e4;
  return { unit: large ? `k${unit}` : unit, factor: large ? 1e-3 : 1 };
}

/** Three components and their length in a row; a dash for what is not known. */
export function Vector({ word, v, scale, title }: { word: ReactNode; v: Components; scale: Scale; title?: string }) {
  const shown = v.map((c) => (c === null ? null : scale.factor * c));
  const size = shown.some((c) => c === null) ? null : Math.hypot(...(shown as number[]));
  const exact =
    size === null ? "not known" : `${v.join(", ")} (${scale.factor === 1 ? scale.unit : scale.unit.slice(1)})`;
  return (
    <tr title={title ?? exact}>
      <td>{word}</td>
      {shown.map((c, i) => (
        <td key={`${"xyz"[i]}`}>{c === null ? "–" : figure(c)}</td>
      ))}
      <td>{size === null ? "–" : figure(size)}</td>
    </tr>
  );
}

export const Heads = ({ what, scale }: { what: string; scale: Scale }) => (
  <thead>
    <tr>
      <th>
        {what}, {scale.unit}
      </th>
      <th>x</th>
      <th>y</th>
      <th>z</th>
      <th>size</th>
    </tr>
  </thead>
);

export const heldWord: Record<string, string> = {
  held: "held",
  partly: "partly held",
  free: "not held",
  unknown: "not known",
};
