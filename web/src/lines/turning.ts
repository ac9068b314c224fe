/** Another result comes into a pane, and what it has of what was in view stays in view. */
import type { QueryClient } from "@tanstack/react-query";
import { question } from "../api/asking";
import { api, ask, type Contents } from "../api/client";
import { contentsQuery } from "../api/queries";
import { say, tell } from "../bench/notices";
import {
  type BenchState,
  carriedOver,
  drawerTab,
  freshKey,
  freshLook,
  freshPlaying,
  freshReading,
  type Look,
  nothingPicked,
  type Pane,
  type PaneHold,
  type ReadingChoice,
  type Shared,
} from "../bench/store";
import { underway } from "../bench/underway";

/** Parts of one result as another numbers them, by their names; a part the other has not is left out. */
export function sameParts(of: number[], from: Contents | undefined, to: Contents | undefined): number[] {
  if (!from || !to) return [];
  return of.map((i) => to.parts.findIndex((p) => p.name === from.parts[i]?.name)).filter((i) => i >= 0);
}

/** How a model is drawn, for the parts another result has as well. */
export const sameLook = (look: Look, from: Contents | undefined, to: Contents | undefined): Look => {
  const hidden = sameParts(look.hidden, from, to);
  return {
    ...look,
    // What is left must be something.
    hidden: hidden.length < (to?.parts.length ?? 0) ? hidden : [],
    translucent: sameParts(look.translucent, from, to),
  };
};

/** Longer than so many milliseconds nothing may change without a word. */
const PATIENCE = 400;

/** A reading as another result has it: the same field and measure, with the axes, region and phase it has as well; null where it lacks
 * the field. */
export function readingThere(reading: ReadingChoice, theirs: Contents): ReadingChoice | null {
  const field = theirs.fields.find((f) => f.name === reading.field);
  if (!field?.measures.some((m) => m.name === reading.measure)) return null;
  // Of a layered field the stacks are each result's own.
  if (field.layers) return null;
  const [, kind, region] = /^(part|set):(.*)$/.exec(reading.region) ?? [];
  const regions = kind === "part" ? theirs.parts : kind === "set" ? theirs.sets : [];
  return {
    ...carriedOver(reading),
    axes: theirs.axes.some((a) => a.name === reading.axes) ? reading.axes : "global",
    region: regions.some((r) => r.name === region) ? reading.region : "all",
    phase: field.harmonic ? reading.phase : "",
  };
}

/** What is kept of two results of a kind, by name: the numbers of one as the other has them. */
async function byName(kind: "path" | "gauges" | "pairing", from: number, to: number, of: number[]): Promise<number[]> {
  if (!of.length) return [];
  const list = async (result: number): Promise<[number, string][]> =>
    kind === "pairing"
      ? (await ask(api.GET("/api/pairings", { params: { query: { result } } }))).map((p) => [p.id, p.name])
      : (await ask(api.GET("/api/kept/{kind}", { params: { path: { kind }, query: { result } } }))).map((k) => [
          k.id,
          String((k.words as { name?: string }).name ?? ""),
        ]);
  const [mine, theirs] = await Promise.all([list(from), list(to)]);
  return of
    .map((id) => mine.find(([i]) => i === id)?.[1])
    .map((name) => theirs.find(([, n]) => n === name)?.[0])
    .filter((id) => id !== undefined);
}

/** What a pane has once another result is in it. */
async function turned(client: QueryClient, from: BenchState, result: number): Promise<Partial<Pane & Shared> | null> {
  const before = from.result;
  if (before === null || !from.reading) return null;
  const [mine, theirs] = await Promise.all([
    client.ensureQueryData(contentsQuery(before)),
    client.ensureQueryData(contentsQuery(result)),
  ]);
  if (mine.arriving || theirs.arriving) return null;
  const [matched, paths, gauges, curves] = await Promise.all([
    question("matched-steps", { result: before, other: String(result) }),
    byName("path", before, result, from.paths ?? []),
    byName("gauges", before, result, from.gauges === null ? [] : [from.gauges]),
    byName("pairing", before, result, from.pairing === null ? [] : [from.pairing]),
  ]);
  const { steps, one_body } = matched.more;
  const reading = readingThere(from.reading, theirs);
  const opens = theirs.fields.find((f) => f.name === theirs.opens);
  const kept = reading !== null && one_body;
  return {
    result,
    reading: reading ?? (opens ? freshReading(opens.name, opens.measures[0]?.name ?? "") : null),
    carried: null,
    step: one_body ? (steps[from.step] ?? 0) : theirs.rail.opening_step,
    camera: one_body ? from.camera : null,
    look: one_body ? sameLook({ ...from.look, turned: "" }, mine, theirs) : freshLook,
    key: kept ? from.key : reading ? { ...from.key, low: null, high: null, fit: "step" } : freshKey,
    arrows: theirs.fields.some((f) => f.name === from.arrows?.field) ? from.arrows : null,
    paths: paths.length ? paths : null,
    gauges: gauges[0] ?? null,
    pairing: curves[0] ?? null,
    // What was drawn beside this one has this one beside it.
    also: from.also.map((id) => (id === result ? before : id)),
    second: from.second === result ? before : from.second,
    measuring: nothingPicked,
    member: null,
    draft: null,
    cut: null,
    moving: null,
    element: null,
    picks: [],
    making: null,
    flagSteps: { only: null, take: "all" },
    // What plies have is not where one looks for a metal.
    drawers: mine.strength === theirs.strength ? from.drawers : drawerTab(from.drawers, "strength", undefined),
    picking: "flag",
    play: freshPlaying,
    playing: false,
  };
}

/** Brings another result into a pane. */
export const turnToResult = (client: QueryClient, pane: PaneHold, result: number): Promise<void> =>
  underway(turnTo(client, pane, result));

async function turnTo(client: QueryClient, pane: PaneHold, result: number): Promise<void> {
  const from = pane.getState();
  if (from.result === result) return;
  let told = () => {};
  const late = window.setTimeout(() => {
    told = say("The other result is being read …");
  }, PATIENCE);
  // Who has gone on meanwhile is not called back.
  const waits = () => pane.getState().result === from.result;
  try {
    const change = await turned(client, from, result);
    if (!waits()) return;
    if (change) pane.set(change);
    else from.open(result);
  } catch (error) {
    if (waits()) from.open(result);
    tell(error);
  } finally {
    window.clearTimeout(late);
    told();
  }
}
